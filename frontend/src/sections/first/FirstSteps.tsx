import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, sendFile, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Part } from "../../parts/Part";
import { Failed, Loading } from "../../parts/states";
import { useStarts } from "../locker/Begin";
import { Drawing } from "../locker/Drawing";
import { useKinds } from "../locker/kinds";
import { useLightship } from "./useLightship";

/** Puts starting points into the locker. */
function useBegin(done: (entries: Schemas["LockerEntry"][]) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (names: string[]) => answer(api.POST("/api/starts", { body: { names } })),
    onSuccess: ({ entries }) => {
      void client.invalidateQueries({ queryKey: ["gear"] });
      done(entries);
    },
  });
}

/** What a person owns, ticked off a list of typical units. */
export function StartingPoints({ onDone }: { onDone: (entries: Schemas["LockerEntry"][]) => void }) {
  const kinds = useKinds();
  const query = useStarts();
  const [picked, setPicked] = useState<readonly string[]>([]);
  const begin = useBegin(onDone);
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data || kinds.length === 0) return <Loading what="what to begin with" />;
  const toggle = (name: string) =>
    setPicked(picked.includes(name) ? picked.filter((p) => p !== name) : [...picked, name]);
  return (
    <form
      aria-label="What you own"
      onSubmit={(event) => {
        event.preventDefault();
        begin.mutate([...picked]);
      }}
    >
      <div className="columns-[230px] gap-x-6">
        {kinds.map(({ kind, plural }) => {
          const some = query.data.starts.filter((s) => s.kind === kind);
          return some.length === 0 ? null : (
            <fieldset key={kind} className="mb-3 break-inside-avoid">
              <legend className="flex items-center gap-1.5 text-[12.5px] font-semibold text-ink-2">
                <Drawing kind={kind} size={18} /> {plural}
              </legend>
              {some.map(({ name }) => (
                <label key={name} className="flex min-h-[24px] items-center gap-2 text-[13.5px]">
                  <input
                    type="checkbox"
                    className="size-[15px] shrink-0 accent-[var(--deep)]"
                    checked={picked.includes(name)}
                    onChange={() => toggle(name)}
                  />
                  {name}
                </label>
              ))}
            </fieldset>
          );
        })}
      </div>
      {begin.error && <Failed error={begin.error} />}
      <p className="mt-1 flex flex-wrap items-center gap-3">
        <Button look="main" type="submit" disabled={picked.length === 0 || begin.isPending}>
          {picked.length === 0
            ? "Put them into the locker"
            : `Put ${picked.length === 1 ? "it" : `these ${picked.length}`} into the locker`}
        </Button>
        <span className="text-[12.5px] text-ink-2">
          {picked.length === 0
            ? "Tick what comes nearest to what you own."
            : "Every figure is marked typical until you say what it is on yours."}
        </span>
      </p>
    </form>
  );
}

/** The first start: add what one owns, open a file, or look around the lightship. */
export function FirstSteps() {
  const go = useNavigate();
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const lightship = useLightship();
  const open = useMutation({
    mutationFn: (from: File) => sendFile("/api/locker/import?replace=false", from),
    onSuccess: () => client.invalidateQueries({ queryKey: ["gear"] }),
  });
  return (
    <section
      aria-label="First steps"
      className="mx-auto grid h-full max-w-[1060px] content-start gap-4 overflow-y-auto px-6 py-5"
    >
      <div>
        <h2 className="text-[21px] font-bold">What do you own?</h2>
        <p className="max-w-[760px] text-ink-2">
          A hook-up is a valve (tube) amp, what hangs on it, and the leads between. Begin with typical units;
          their own watts and ohms come next, and until then the verdict says “check first”.
        </p>
      </div>
      <StartingPoints
        onDone={(entries) => {
          const amp = entries.find((e) => e.unit.kind === "amp") ?? entries[0];
          void go(amp ? `/locker/${amp.unit.id}` : "/locker");
        }}
      />
      <div className="flex flex-wrap items-center gap-3 border-t border-line pt-3">
        <Button onClick={() => file.current?.click()}>Open a locker file …</Button>
        <input
          ref={file}
          type="file"
          accept=".json,.csv"
          aria-label="Locker file"
          className="hidden"
          onChange={(event) => {
            const from = event.target.files?.[0];
            if (from) open.mutate(from);
          }}
        />
        <Button disabled={lightship.part !== undefined} onClick={lightship.go}>
          Look around the lightship
        </Button>
        <span className="text-[12.5px] text-ink-2">
          An invented studio, in a copy of its own; you come back to your own data when you like.
        </span>
      </div>
      {lightship.part !== undefined && (
        <Part what="Laying out the lightship" part={lightship.part} onStop={lightship.stop} />
      )}
      {(open.error ?? lightship.error) && <Failed error={(open.error ?? lightship.error)!} />}
    </section>
  );
}
