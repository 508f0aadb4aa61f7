import { useState } from "react";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Mark } from "../../parts/Mark";
import { Frame } from "./Frame";
import { OnPicture } from "./OnPicture";
import type { Asking } from "./Question";

const VERDICTS = [
  { id: "clear", name: "Clear to switch on", mark: "fine" },
  { id: "caution", name: "Check first", mark: "caution" },
  { id: "stop", name: "Do not switch on", mark: "stop" },
] as const;

type Verdict = (typeof VERDICTS)[number]["id"];

/** May it be switched on? A verdict, and the reason for it. */
export function May({ asked, onAnswer, isBusy, told }: Asking) {
  const [verdict, setVerdict] = useState<Verdict>();
  const open = !asked.result && !isBusy;
  const say = (next: Verdict) => {
    setVerdict(next);
    if (next === "clear") onAnswer({ by: "verdict", verdict: next, reason: "" });
  };
  const because = (reason: string) => verdict && onAnswer({ by: "verdict", verdict, reason });
  const why = verdict && verdict !== "clear";
  useKeys(
    {
      ...Object.fromEntries(
        why
          ? asked.reasons.map((each, n) => [String(n + 1), () => because(each.check)])
          : VERDICTS.map((each, n) => [String(n + 1), () => say(each.id)]),
      ),
      Escape: () => (why ? setVerdict(undefined) : false),
    },
    open,
  );
  return (
    <Frame picture={<OnPicture picture={asked.picture!} lit={asked.result?.at ?? []} still />} told={told}>
      <div className="flex flex-col gap-2 overflow-y-auto p-4">
        {VERDICTS.map((each, n) => (
          <Button
            key={each.id}
            className="min-h-[44px]"
            look={verdict === each.id ? "main" : "plain"}
            aria-pressed={verdict === each.id}
            disabled={!open}
            onClick={() => say(each.id)}
          >
            <Mark severity={each.mark} size={18} /> {each.name}
            {!why && (
              <span className="ml-auto">
                <Key>{n + 1}</Key>
              </span>
            )}
          </Button>
        ))}
        {why && (
          <>
            <h3 className="pt-2 font-bold">Why?</h3>
            <ul className="flex flex-col gap-1.5" aria-label="Why">
              {asked.reasons.map((each, n) => (
                <li key={each.check}>
                  <button
                    type="button"
                    disabled={!open}
                    onClick={() => because(each.check)}
                    className="flex w-full items-start gap-2 rounded-md border border-line px-2.5 py-1.5 text-left hover:border-ink hover:bg-faint"
                  >
                    <Key>{n + 1}</Key> <span>{each.text}</span>
                  </button>
                </li>
              ))}
            </ul>
            <p className="text-[12.5px] text-ink-2">
              <Key>Esc</Key> takes the verdict back.
            </p>
          </>
        )}
      </div>
    </Frame>
  );
}
