import { Link } from "react-router";
import { Button, Key } from "../../parts/controls";
import { Mark } from "../../parts/Mark";
import type { Severity } from "../../api/client";
import { time, type Asked, type Result } from "./useDrills";
import { Right } from "./Right";

function Found({ said, title }: { said: NonNullable<Result["finding"]>; title: string }) {
  return (
    <section className="grid grid-cols-[20px_1fr] gap-x-2">
      <Mark severity={said.severity as Severity} size={18} />
      <div>
        <h3 className="text-[12px] font-semibold text-ink-2">{title}</h3>
        <p className="font-semibold">{said.text}</p>
        <p className="text-[13px] text-ink-2">{said.reason}</p>
        {said.typical.length > 0 && (
          <p className="text-[12px] text-ink-2 italic">{said.typical.join("; ")}</p>
        )}
        <Link className="text-[13px] underline" to={`/help/checks#${said.check}`}>
          The check
        </Link>
      </div>
    </section>
  );
}

function List({ title, lines, numbered }: { title: string; lines: string[]; numbered?: boolean }) {
  const Kind = numbered ? "ol" : "ul";
  return (
    <section>
      <h3 className="text-[12px] font-semibold text-ink-2">{title}</h3>
      <Kind className={numbered ? "ml-5 list-decimal" : "flex flex-col gap-1"}>
        {lines.map((line, n) => (
          <li key={n}>{line}</li>
        ))}
      </Kind>
    </section>
  );
}

interface Props {
  asked: Asked;
  result: Result;
  isLast: boolean;
  isBusy: boolean;
  hasEnded: boolean;
  onNext: () => void;
  onAgain: () => void;
}

const WORKED: Record<string, string> = {
  number: "Worked out",
  order: "As the run sheet has it",
  ear: "What they differ by",
};

/** What is told after an answer: what it was, the number, the rule, and where it is explained. */
export function Told({ asked, result, isLast, isBusy, hasEnded, onNext, onAgain }: Props) {
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-0 flex-1 flex-col gap-3 overflow-y-auto p-4" role="status">
        <div>
          <h2 className="flex items-center gap-2 text-[18px] font-bold">
            <Right beside right={result.is_right} size={20} /> {result.is_right ? "Right" : "Not right"}
          </h2>
          {result.says && <p>{result.says}</p>}
          {result.verdict && asked.kind === "may" && (
            <p>
              The verdict: <b>{result.verdict}</b>.
            </p>
          )}
          {result.right_answer && (
            <p>
              The answer: <b>{result.right_answer}</b>
            </p>
          )}
        </div>
        {result.left && <Found said={result.left} title="What is left with your change" />}
        {result.finding && <Found said={result.finding} title="What was wrong" />}
        {result.worked.length > 0 && (
          <List
            title={WORKED[asked.kind] ?? "Worked out"}
            lines={result.worked}
            numbered={asked.kind !== "ear"}
          />
        )}
        {result.harmless.length > 0 && <List title="Looks wrong and is not" lines={result.harmless} />}
        <section className="border-l-[3px] border-deep pl-3">
          <h3 className="text-[12px] font-semibold text-ink-2">{result.card}</h3>
          <p className="font-semibold">{result.rule}</p>
          <Link className="text-[13px] underline" to={`/help/physics#${result.page}`}>
            How it comes about
          </Link>
        </section>
        <p className="text-[12.5px] text-ink-2">
          {result.seconds !== null && <>{time(result.seconds)}. </>}
          {result.usual !== null && <>Usually {time(result.usual)} for this kind. </>}
          {result.counts ? `${result.counts} Due ${result.due}.` : "Asked once more: it counts for no date."}
        </p>
        {result.notes.map((note) => (
          <p key={note} className="text-[12.5px] text-caution">
            {note}
          </p>
        ))}
      </div>
      <div className="flex shrink-0 flex-wrap gap-2 border-t border-line p-3">
        {}
        <Button look="main" autoFocus disabled={isBusy} onClick={onNext}>
          {hasEnded ? "To the score" : isLast ? "End the sitting" : "Next"} <Key>n</Key>
        </Button>
        {!hasEnded && (
          <Button disabled={isBusy} onClick={onAgain}>
            The same, a little changed <Key>m</Key>
          </Button>
        )}
      </div>
    </div>
  );
}
