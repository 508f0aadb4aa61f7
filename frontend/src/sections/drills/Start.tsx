import { useState } from "react";
import { useNavigate } from "react-router";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { One, OneOf } from "../../parts/OneOf";
import { Failed } from "../../parts/states";
import { dayOf, percent, time, useSitDown, type DrillsState } from "./useDrills";

type Kind = DrillsState["kinds"][number];

/** A part that was right, as a bar with where it truly lies by chance. */
function Bar({ score }: { score: NonNullable<Kind["score"]> }) {
  return (
    <span className="relative block h-[8px] w-full rounded-full bg-faint" aria-hidden>
      <span
        className="absolute inset-y-0 left-0 rounded-full bg-water"
        style={{ width: `${100 * score.part}%` }}
      />
      <span
        className="absolute top-1/2 h-[2px] -translate-y-1/2 bg-ink"
        style={{ left: `${100 * score.low}%`, width: `${100 * (score.high - score.low)}%` }}
      />
    </span>
  );
}

function OneKind({
  kind,
  source,
  on,
  onTurn,
}: {
  kind: Kind;
  source: string;
  on: boolean;
  onTurn: () => void;
}) {
  const lacks = kind.lacks[source] ?? "";
  return (
    <li className="border-t border-line py-2">
      <label className="grid cursor-pointer grid-cols-[24px_minmax(0,1fr)_150px] items-start gap-x-2">
        <input
          type="checkbox"
          className="mt-0.5 size-[18px] accent-[var(--deep)]"
          checked={on && !lacks}
          disabled={Boolean(lacks)}
          onChange={onTurn}
        />
        <span>
          <b className="font-semibold">{kind.name}</b>
          {kind.due > 0 && <span className="ml-2 text-[12.5px] text-ink-2">{kind.due} due</span>}
          <span className="block text-[12.5px] text-ink-2">{lacks || kind.does}</span>
        </span>
        <span className="text-[12.5px] text-ink-2">
          {kind.score ? (
            <>
              <Bar score={kind.score} />
              <span className="mt-1 block">
                {kind.score.right} of {kind.score.of} right
                {kind.usual !== null && `, ${time(kind.usual)}`}
              </span>
              <span className="block">
                true part {Math.round(100 * kind.score.low)} to {percent(kind.score.high)}
              </span>
            </>
          ) : (
            "not asked yet"
          )}
        </span>
      </label>
    </li>
  );
}

/** What is due, from what drills are made and of which kinds; and the beginning of ten. */
export function Start({ state }: { state: DrillsState }) {
  const go = useNavigate();
  const { begin } = useSitDown();
  const [source, setSource] = useState(state.source);
  const [off, setOff] = useState<string[]>([]);
  const able = state.kinds.filter((kind) => !kind.lacks[source]);
  const kinds = able.map((kind) => kind.id).filter((id) => !off.includes(id));
  const start = () => {
    if (kinds.length && !begin.isPending)
      begin.mutate({ source, kinds }, { onSuccess: (made) => void go(`/drills/${made.id}`) });
  };
  useKeys({ b: start });
  return (
    <section aria-label="A sitting" className="flex flex-col gap-3 p-5">
      <div>
        <h2 className="text-[22px] font-bold">Drills</h2>
        <p className="text-ink-2">
          {state.due > 0
            ? `${state.due} card${state.due === 1 ? " is" : "s are"} due.`
            : state.answered
              ? `Nothing is due${state.due_next ? ` until ${dayOf(state.due_next)}` : ""}. New ones can always be asked.`
              : "See, hear and work out what is wrong with a hook-up before it is switched on. Nothing here touches your hook-ups."}
        </p>
        {state.set_back && <p className="text-caution">{state.set_back}</p>}
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-[13px] text-ink-2">Made from</span>
        <OneOf label="Made from" value={source} onValue={setSource} className="flex gap-1">
          {Object.entries(state.sources).map(([id, name]) => (
            <One
              key={id}
              value={id}
              className="min-h-[28px] rounded-md border border-line bg-sheet px-2.5 font-semibold hover:border-ink aria-checked:border-ink aria-checked:bg-ink aria-checked:text-paper"
            >
              {name}
            </One>
          ))}
        </OneOf>
      </div>
      {begin.error && <Failed error={begin.error} />}
      <ul className="border-b border-line" aria-label="Kinds of question">
        {state.kinds.map((kind) => (
          <OneKind
            key={kind.id}
            kind={kind}
            source={source}
            on={!off.includes(kind.id)}
            onTurn={() =>
              setOff((now) =>
                now.includes(kind.id) ? now.filter((id) => id !== kind.id) : [...now, kind.id],
              )
            }
          />
        ))}
      </ul>
      <p className="text-[12.5px] text-ink-2">
        A drill is no verdict on what is plugged in. Makers’ manuals and qualified technicians stand above it.
      </p>
      <div className="flex flex-wrap gap-2">
        <Button look="main" disabled={kinds.length === 0 || begin.isPending} onClick={start}>
          {begin.isPending ? "Making the first …" : kinds.length ? "Begin ten" : "Choose a kind first"}{" "}
          <Key>b</Key>
        </Button>
        {state.open !== null && (
          <Button onClick={() => void go(`/drills/${state.open}`)}>Go on with the open sitting</Button>
        )}
      </div>
    </section>
  );
}
