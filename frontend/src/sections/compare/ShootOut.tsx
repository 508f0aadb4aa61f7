import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { answer, api, Refusal, sendFile, type Schemas } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { VerdictMark } from "../../parts/Mark";
import { Failed, Loading } from "../../parts/states";
import { asNumber } from "../../parts/typed";
import { useHookups } from "../bench/HookupMenu";
import { keyOf } from "./useComparison";

const MOST = 8;
const DRIVES: [number, string][] = [
  [-12, "softly: clean"],
  [0, "at the edge"],
  [10, "driven"],
  [20, "flat out"],
];

/** Every position of one control of a hook-up, each as a hook-up of its own. */
function Vary({ hookup, onMade }: { hookup: string; onMade: (ids: string[]) => void }) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState("");
  const found = useQuery({
    queryKey: ["variants", hookup],
    queryFn: () =>
      answer(api.GET("/api/hookups/{hookup_id}/variants", { params: { path: { hookup_id: hookup } } })),
  });
  const variants = found.data?.variants ?? [];
  const at = variants.find((v) => `${v.unit}|${v.control}` === chosen);
  const make = useMutation({
    mutationFn: ({ unit, control }: { unit: string; control: string }) =>
      answer(
        api.POST("/api/hookups/{hookup_id}/variants", {
          params: { path: { hookup_id: hookup } },
          body: { unit, control },
        }),
      ),
    onSuccess: ({ hookups }) => {
      void client.invalidateQueries({ queryKey: ["hookups"] });
      setChosen("");
      onMade(hookups);
    },
  });
  if (variants.length === 0) return null;
  return (
    <div className="mt-1 flex flex-wrap items-end gap-2 text-[13px]">
      <label className="flex items-center gap-1.5">
        or every position of
        <select
          className={`${FIELD} !w-[230px] !py-0.5`}
          value={chosen}
          onChange={(event) => setChosen(event.target.value)}
        >
          <option value="">a control …</option>
          {variants.map((v) => (
            <option key={`${v.unit}|${v.control}`} value={`${v.unit}|${v.control}`}>
              {v.label}
            </option>
          ))}
        </select>
      </label>
      {at && (
        <Button disabled={make.isPending} onClick={() => make.mutate(at)}>
          {at.positions.length} hook-ups: {at.positions.join(", ")}
        </Button>
      )}
      {make.error && <Failed error={make.error} />}
    </div>
  );
}

/** What a shoot-out is to be of: one dry track, and the hook-ups it goes through. */
export function NewShootOut() {
  const go = useNavigate();
  const client = useQueryClient();
  const [params] = useSearchParams();
  const from = params.get("hookup") ?? currentHookup.get() ?? "";
  const [name, setName] = useState("");
  const [words, setWords] = useState("");
  const [chosen, setChosen] = useState<string[]>(params.get("hookup") ? [from] : []);
  const [setOn, setSetOn] = useState("");
  const [second, setSecond] = useState(false);
  const [seconds, setSeconds] = useState("10");
  const [drive, setDrive] = useState(10);
  const [direct, setDirect] = useState<Schemas["Source"]>();
  const file = useRef<HTMLInputElement>(null);
  const hookups = useHookups(useDeferredValue(words));
  const every = useHookups();
  const nameOf = (id: string) => every.data?.entries.find((each) => each.id === id)?.name ?? id;
  const bring = useMutation({
    mutationFn: (track: File) =>
      sendFile<Schemas["Source"]>(`/api/feel/source?name=${encodeURIComponent(track.name)}`, track),
    onSuccess: setDirect,
  });
  const begin = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/shoot-outs", {
          body: {
            shoot_out: {
              name: name.trim() || "Shoot-out",
              hookups: chosen,
              set_on: setOn,
              second_pass: second,
              direct: direct?.id ?? "",
              direct_name: direct?.name ?? "",
              seconds: direct ? Math.max(3, direct.seconds) : asNumber(seconds),
              drive,
            },
          },
        }),
      ),
    onSuccess: (made) => {
      client.setQueryData(keyOf(made.id), made);
      void client.invalidateQueries({ queryKey: ["comparisons"] });
      void go(`/compare/${made.id}`, { replace: true });
    },
  });
  const count = chosen.length * (second ? 2 : 1);
  const problem =
    chosen.length < 2
      ? "Choose at least two hook-ups."
      : count > MOST
        ? `At most ${MOST} recordings: ${count} with the second pass.`
        : undefined;
  const toggle = (id: string) =>
    setChosen(chosen.includes(id) ? chosen.filter((each) => each !== id) : [...chosen, id]);
  const fieldsAt = begin.error instanceof Refusal ? begin.error : undefined;
  return (
    <form
      className="mx-auto flex h-full max-w-[860px] flex-col gap-3 overflow-y-auto px-5 py-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (!problem) begin.mutate();
      }}
    >
      <h1 className="text-[17px] font-bold">Shoot-out: one dry track, many hook-ups</h1>
      <p className="text-[13px] text-ink-2">
        The list comes in the order that moves the fewest speaker leads, with what is loud in one piece.
        Record it here or anywhere; what comes back is brought into line and opened in Compare.
      </p>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Name">
          <TextInput
            value={name}
            maxLength={120}
            placeholder="Fog theme, four loads"
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Field
          label="Dry track"
          hint={
            direct
              ? `${direct.seconds.toFixed(1)} s`
              : "The built-in take is made by the program; a file of yours plays as it was."
          }
        >
          <Button onClick={() => file.current?.click()} disabled={bring.isPending}>
            {bring.isPending ? "Reading it …" : direct ? direct.name : "The built-in take; choose a file …"}
          </Button>
        </Field>
        <input
          ref={file}
          type="file"
          accept=".wav,.flac,.aif,.aiff,audio/*"
          aria-label="Dry track from a file"
          className="hidden"
          onChange={(event) => {
            const track = event.target.files?.[0];
            event.target.value = "";
            if (track) bring.mutate(track);
          }}
        />
        {!direct && (
          <Field label="Length" unit="s">
            <TextInput
              inputMode="decimal"
              value={seconds}
              onChange={(event) => setSeconds(event.target.value)}
            />
          </Field>
        )}
        <Field label="Played" hint="For the simulated interface.">
          <select className={FIELD} value={drive} onChange={(event) => setDrive(Number(event.target.value))}>
            {DRIVES.map(([value, said]) => (
              <option key={value} value={value}>
                {said}
              </option>
            ))}
          </select>
        </Field>
      </div>
      {bring.error && <Failed error={bring.error} />}
      <fieldset className="min-h-[180px]">
        <legend className="text-[13px] font-semibold">Hook-ups, {chosen.length} chosen</legend>
        <TextInput
          aria-label="Search hook-ups"
          placeholder="Search …"
          className="my-1"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        {hookups.error && <Failed error={hookups.error} retry={() => void hookups.refetch()} />}
        {!hookups.data && <Loading what="the hook-ups" />}
        <ul className="max-h-[30vh] overflow-y-auto rounded-md border border-line bg-sheet">
          {hookups.data?.entries.map((entry) => (
            <li key={entry.id} className="border-t border-line first:border-t-0">
              <label className="flex items-center gap-2.5 px-3 py-1.5">
                <input
                  type="checkbox"
                  className="size-[15px] accent-[var(--deep)]"
                  checked={chosen.includes(entry.id)}
                  disabled={!chosen.includes(entry.id) && chosen.length >= MOST}
                  onChange={() => toggle(entry.id)}
                />
                <VerdictMark severity={entry.severity} size={14} />
                <span className="min-w-0 flex-1 truncate">{entry.name}</span>
              </label>
            </li>
          ))}
        </ul>
        {chosen.length === 1 && <Vary hookup={chosen[0]!} onMade={(ids) => setChosen(ids.slice(0, MOST))} />}
      </fieldset>
      <div className="grid items-end gap-3 sm:grid-cols-2">
        <Field
          label="The amp’s controls were set on"
          hint="What suits one load may not suit another; the result says so."
        >
          <select className={FIELD} value={setOn} onChange={(event) => setSetOn(event.target.value)}>
            <option value="">nobody knows</option>
            {chosen.map((id) => (
              <option key={id} value={id}>
                {nameOf(id)}
              </option>
            ))}
          </select>
        </Field>
        <label className="flex items-start gap-2 text-[13px]">
          <input
            type="checkbox"
            className="mt-0.5 accent-[var(--deep)]"
            checked={second}
            onChange={(event) => setSecond(event.target.checked)}
          />
          A second pass, the amp set anew for each load
        </label>
      </div>
      {fieldsAt && <Failed error={fieldsAt} />}
      <div className="flex items-center justify-end gap-3 pb-4">
        {problem && <span className="text-[13px] text-ink-2">{problem}</span>}
        <Button onClick={() => void go("/compare")}>Leave it</Button>
        <Button look="main" type="submit" disabled={Boolean(problem) || begin.isPending}>
          Write the list
        </Button>
      </div>
    </form>
  );
}
