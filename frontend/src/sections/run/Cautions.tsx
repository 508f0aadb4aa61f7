import { useState } from "react";
import { Link } from "react-router";
import type { RunState } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { Mark } from "../../parts/Mark";
import { ForAll } from "../../parts/sharing/ForAll";
import type { Run } from "./useRun";

function Caution({
  caution,
  onAccept,
}: {
  caution: RunState["cautions"][number];
  onAccept: (word: string) => void;
}) {
  const [word, setWord] = useState("");
  const { finding } = caution;
  return (
    <li className="grid grid-cols-[24px_1fr] gap-2 border-t border-line py-3 first:border-t-0">
      <Mark severity="caution" />
      <div>
        <p className="text-[16px] font-semibold">{finding.text}</p>
        <p className="text-ink-2">{finding.reason}</p>
        {caution.word ? (
          <p className="mt-1">
            Accepted: “{caution.word}”{" "}
            <button
              type="button"
              className="inline-flex min-h-[24px] items-center text-deep underline"
              onClick={() => onAccept("")}
            >
              take that back
            </button>
          </p>
        ) : (
          <form
            className="mt-1.5 flex max-w-[460px] gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              onAccept(word);
            }}
          >
            <TextInput
              aria-label={`Your word on: ${finding.text}`}
              placeholder="Why this is all right, in a word"
              maxLength={200}
              value={word}
              onChange={(event) => setWord(event.target.value)}
            />
            <Button type="submit" disabled={!word.trim()}>
              Accept
            </Button>
          </form>
        )}
      </div>
    </li>
  );
}

/** What stands between this and switching on: stops, cautions that want a word, steps that are left. */
export function Gate({ run, state, onTurned }: { run: Run; state: RunState; onTurned: () => void }) {
  const why = [...state.blocked, state.unticked].filter(Boolean);
  const others = why.filter((each) => !state.stops.some((stop) => stop.text === each));
  return (
    <div className="mt-8 max-w-[720px] border-t border-line pt-4">
      <h2 className="text-[16px] font-bold">Before it may be switched on</h2>
      {state.stops.length > 0 && (
        <ul>
          {state.stops.map((stop) => (
            <li
              key={stop.key}
              className="grid grid-cols-[24px_1fr] gap-2 border-t border-line py-3 first:border-t-0"
            >
              <Mark severity="stop" />
              <div>
                <p className="text-[16px] font-semibold">{stop.text}</p>
                <p className="text-ink-2">{stop.reason}</p>
              </div>
            </li>
          ))}
        </ul>
      )}
      <ul>
        {state.cautions.map((caution) => (
          <Caution
            key={caution.finding.key}
            caution={caution}
            onAccept={(word) => run.accept.mutate({ key: caution.finding.key, word })}
          />
        ))}
      </ul>
      {why.length > 0 ? (
        <div className="mt-2 text-ink-2">
          {state.stops.length > 0 && (
            <p>
              A stop is not accepted, it is mended:{" "}
              <ForAll otherwise="at the desk, on the Bench">
                <Link
                  to={`/bench/${state.hookup}`}
                  className="inline-flex min-h-[24px] items-center text-deep underline"
                >
                  go to the Bench
                </Link>
              </ForAll>
              .
            </p>
          )}
          {others.map((each) => (
            <p key={each}>{each}</p>
          ))}
        </div>
      ) : (
        <p className="mt-1 text-ink-2">Everything before switching on is done.</p>
      )}
      <Button
        look="main"
        className="mt-3 !px-5 !py-2.5 !text-[17px]"
        disabled={why.length > 0 || run.turn.isPending}
        onClick={() => {
          onTurned();
          run.turn.mutate(true);
        }}
      >
        Mark as switched on
      </Button>
    </div>
  );
}
