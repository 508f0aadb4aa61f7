import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import type { Part } from "./useComparison";
import { usePlayTogether } from "./usePlayTogether";

type Run = Schemas["ListeningRun"];
type Kind = Run["kind"];

const KINDS: { kind: Kind; name: string; about: string }[] = [
  {
    kind: "tell apart",
    name: "Can they be told apart?",
    about: "X is one of both. Listen as often as you like, then say which.",
  },
  { kind: "prefer", name: "Which is better?", about: "Both in an order by lot. Say which you would take." },
];
const SOUNDS: Record<Kind, { which: string; name: string }[]> = {
  "tell apart": [
    { which: "a", name: "A" },
    { which: "x", name: "X" },
    { which: "b", name: "B" },
  ],
  prefer: [
    { which: "first", name: "the first" },
    { which: "second", name: "the second" },
  ],
};

/** What may be compared: a number of one's own for each, and its name. */
export interface Choice {
  id: number;
  name: string;
}
export interface Wanted {
  kind: Kind;
  a: number;
  b: number;
  trials: number;
}

/** Trials without knowing. How many is said before; what came of them only after the last. */
export function Blind({
  choices,
  fixed,
  start,
  listed,
  part,
  onClose,
}: {
  choices: Choice[];
  /** The first of both cannot be chosen: it is what one is at. */
  fixed?: boolean;
  start: (wanted: Wanted) => Promise<Run>;
  /** The list that a run goes into once it is over. */
  listed: readonly unknown[];
  part: Part;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [kind, setKind] = useState<Kind>("tell apart");
  const [a, setA] = useState(choices[0]!.id);
  const [b, setB] = useState(choices[1]!.id);
  const [trials, setTrials] = useState("12");
  const [run, setRun] = useState<Run>();
  const together = usePlayTogether(
    (which, { start, stop }) =>
      `/api/runs/${run?.id}/sound/${which}?start=${start}&stop=${stop}&trial=${run?.done}`,
  );
  const told = (next: Run) => {
    together.stop();
    setRun(next);
    if (next.over) void client.invalidateQueries({ queryKey: listed });
  };
  const begin = useMutation({
    mutationFn: () => start({ kind, a, b, trials: Number(trials) }),
    onSuccess: told,
  });
  const say = useMutation({
    mutationFn: (said: number) =>
      answer(
        api.POST("/api/runs/{run_id}/answer", {
          params: { path: { run_id: run!.id } },
          body: { trial: run!.done, said },
        }),
      ),
    onSuccess: told,
  });
  const end = useMutation({
    mutationFn: () => answer(api.POST("/api/runs/{run_id}/stop", { params: { path: { run_id: run!.id } } })),
    onSuccess: told,
  });
  const close = () => {
    together.stop();
    if (run && !run.over) end.mutate();
    onClose();
  };
  const count = Number(trials);
  const asked = Number.isInteger(count) && count >= 4 && count <= 40;
  const hear = (which: string) =>
    together.isPlaying
      ? together.hear(which)
      : void together.play(
          SOUNDS[run!.kind].map((s) => s.which),
          which,
          part,
        );
  const error = begin.error ?? say.error ?? end.error;
  const choose = (value: number, set: (id: number) => void, held = false) => (
    <select className={FIELD} value={value} disabled={held} onChange={(e) => set(Number(e.target.value))}>
      {choices.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
  return (
    <Sheet
      open
      onClose={close}
      title="Without knowing"
      about="Matched in level, the part that is marked, over and over."
    >
      {!run ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (asked && a !== b) begin.mutate();
          }}
        >
          <fieldset>
            <legend className="sr-only">What is asked</legend>
            {KINDS.map((each) => (
              <div key={each.kind} className="mb-1 flex items-start gap-2">
                <input
                  id={`kind-${each.kind}`}
                  type="radio"
                  name="kind"
                  className="mt-1 accent-[var(--deep)]"
                  checked={kind === each.kind}
                  onChange={() => setKind(each.kind)}
                />
                <div>
                  <label htmlFor={`kind-${each.kind}`} className="font-semibold">
                    {each.name}
                  </label>
                  <p className="text-[12.5px] text-ink-2">{each.about}</p>
                </div>
              </div>
            ))}
          </fieldset>
          <div className="mt-2 grid grid-cols-[1fr_1fr_90px] gap-2">
            <Field label="One" problem={a === b ? "Two different ones are wanted." : undefined}>
              {choose(a, setA, fixed)}
            </Field>
            <Field label="Other">{choose(b, setB)}</Field>
            <Field label="Trials" problem={asked ? undefined : "4 to 40"}>
              <TextInput inputMode="numeric" value={trials} onChange={(e) => setTrials(e.target.value)} />
            </Field>
          </div>
          <p className="mt-2 text-[12.5px] text-ink-2">
            How many there are is fixed now, and a run that is stopped is kept as stopped: who may stop when
            it looks well, proves nothing.
          </p>
          {error && <Failed error={error} />}
          <div className="mt-3 flex justify-end gap-2">
            <Button onClick={close}>Leave it</Button>
            <Button look="main" type="submit" disabled={!asked || a === b || begin.isPending}>
              Begin
            </Button>
          </div>
        </form>
      ) : run.over ? (
        <div>
          <p role="status" className="text-[15px] font-semibold">
            {run.said}
          </p>
          <div className="mt-3 flex justify-end gap-2">
            <Button onClick={() => setRun(undefined)}>Another run</Button>
            <Button look="main" onClick={close}>
              Done
            </Button>
          </div>
        </div>
      ) : (
        <div>
          <p role="status">
            Trial {run.done + 1} of {run.trials}
            {run.kind === "tell apart" && `. A is ${run.a}, B is ${run.b}; X is one of them`}.
          </p>
          <div className="mt-3 flex gap-2">
            {SOUNDS[run.kind].map(({ which, name }) => (
              <Button
                key={which}
                look={together.isPlaying && together.heard === which ? "main" : "plain"}
                aria-pressed={together.isPlaying && together.heard === which}
                className="flex-1 justify-center !py-2.5 text-[15px]"
                onClick={() => hear(which)}
              >
                Hear {name}
              </Button>
            ))}
          </div>
          <p className="mt-4 text-[13px] text-ink-2">{run.kind === "tell apart" ? "X is" : "I would take"}</p>
          <div className="mt-1 flex gap-2">
            {(run.kind === "tell apart" ? ["A", "B"] : ["the first", "the second"]).map((name, said) => (
              <Button
                key={name}
                className="flex-1 justify-center !py-2"
                disabled={say.isPending}
                onClick={() => say.mutate(said)}
              >
                {name}
              </Button>
            ))}
          </div>
          {together.failed && (
            <p role="alert" className="mt-2 text-stop">
              It could not be played: the sound is no longer there.
            </p>
          )}
          {error && <Failed error={error} />}
          <div className="mt-4 flex justify-between">
            <Button look="quiet" onClick={() => end.mutate()}>
              Stop the run
            </Button>
            <Button look="quiet" onClick={together.stop} disabled={!together.isPlaying}>
              Silence
            </Button>
          </div>
        </div>
      )}
    </Sheet>
  );
}
