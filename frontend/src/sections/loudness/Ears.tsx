import { useMutation, useQuery } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { Failed, Loading } from "../../parts/states";
import { useGear } from "../locker/gear";
import { useStale } from "./Readings";
import { asNumber } from "../../parts/typed";
import { dba, type Loudness } from "./useLoudness";

/** A bar that fills up: what of the allowance is used. */
function Dose({ school: { dose: part, chosen, name, over } }: { school: Schemas["SchoolDose"] }) {
  const shown = part == null ? 1 : Math.min(1, part);
  return (
    <div className="py-1">
      <p className={`flex justify-between gap-2 text-[12.5px] ${chosen ? "font-semibold" : "text-ink-2"}`}>
        <span>{name}</span>
        <span className={`shrink-0 ${over ? "font-semibold text-caution" : ""}`}>
          {part == null ? "over any allowance" : `${Math.round(part * 100)} %`}
        </span>
      </p>
      <div className="mt-0.5 h-2.5 rounded-sm border border-line bg-sheet">
        <div
          className={`h-full rounded-sm ${over ? "bg-caution-fill" : chosen ? "bg-deep" : "bg-water"}`}
          style={{ width: `${100 * shown}%` }}
        />
      </div>
    </div>
  );
}

/** Listening so far, by every school; how long one may go on; and what else was listened to. */
export function Ears({ hookup, loudness }: { hookup: string; loudness: Loudness }) {
  const ears = useQuery({
    queryKey: ["ears", hookup],
    queryFn: () => answer(api.GET("/api/ears", { params: { query: { hookup } } })),
  });
  const pairs = useGear("", "headphones", false).data?.entries ?? [];
  const stale = useStale();
  const own = loudness.plan.places.filter((p) => p.ears);
  const options = [
    ...own.map((p) => ({ id: p.place, name: p.name })),
    ...pairs.map(({ unit }) => ({ id: unit.id, name: unit.name })),
    ...loudness.plan.places.filter((p) => !p.ears).map((p) => ({ id: p.place, name: p.name })),
  ];
  const [what, setWhat] = useState("");
  const [level, setLevel] = useState("");
  const [minutes, setMinutes] = useState("");
  const [doomed, setDoomed] = useState<number>();
  const where = what || options[0]?.id || "";
  const expected =
    loudness.plan.places.find((p) => p.place === where)?.dba ??
    loudness.phones.find((p) => p.unit === where)?.most;
  const listen = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/ears", {
          body: {
            what: where,
            level: asNumber(level || (expected == null ? "" : String(Math.round(expected)))),
            minutes: asNumber(minutes),
            at: "",
          },
        }),
      ),
    onSuccess: () => {
      setMinutes("");
      setLevel("");
      stale();
    },
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/readings/{reading_id}", { params: { path: { reading_id: id } } })),
    onSuccess: stale,
  });
  if (ears.error) return <Failed error={ears.error} retry={() => void ears.refetch()} />;
  if (!ears.data) return <Loading what="what was listened to" />;
  const { span, schools, exposures, left_words, where: at, level: predicted, warn } = ears.data;
  return (
    <div className="at-arm min-h-0 flex-1 overflow-y-auto pb-3">
      <div className="border-b border-line px-4 py-2.5">
        {warn && <p className="pb-1 font-semibold text-caution">{warn}</p>}
        <p className="text-[13px]">
          {predicted == null
            ? "This hook-up reaches no place your ears are at."
            : `At ${at} about ${dba(predicted)}, at the edge of what is predicted: ${left_words} left of this ${span}.`}
        </p>
        <div className="mt-1.5">
          {schools.map((school) => (
            <Dose key={school.name} school={school} />
          ))}
        </div>
        <p className="mt-1 text-[12px] text-ink-2">
          Which school counts is set in the preferences. Hearing does not come back, and an allowance is no
          promise.
        </p>
      </div>
      <form
        className="border-b border-line px-4 py-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          listen.mutate();
        }}
      >
        <h2 className="pb-1 text-[13px] font-bold">Log what you listened to</h2>
        <div className="grid grid-cols-2 gap-2">
          <div className="col-span-2">
            <Field label="Where">
              <select className={FIELD} value={where} onChange={(e) => setWhat(e.target.value)}>
                {options.map((o) => (
                  <option key={o.id} value={o.id}>
                    {o.name}
                  </option>
                ))}
              </select>
            </Field>
          </div>
          <Field label="Level" unit="dBA">
            <TextInput
              inputMode="decimal"
              placeholder={expected == null ? "" : String(Math.round(expected))}
              value={level}
              onChange={(e) => setLevel(e.target.value)}
            />
          </Field>
          <Field label="Listened" unit="min">
            <TextInput inputMode="decimal" value={minutes} onChange={(e) => setMinutes(e.target.value)} />
          </Field>
        </div>
        <Button className="mt-2" type="submit" disabled={!minutes.trim() || !where || listen.isPending}>
          Log it
        </Button>
        {loudness.phones.map((p) => (
          <p key={p.unit} className="mt-1.5 text-[12.5px] text-ink-2">
            {p.name} reaches {Math.round(p.most)} dB at the end of its travel.
          </p>
        ))}
      </form>
      {(listen.error ?? remove.error) && <Failed error={listen.error ?? remove.error} />}
      <h2 className="px-4 pt-2.5 pb-1 text-[13px] font-bold">This {span} so far</h2>
      <ul aria-label="Listened to">
        {exposures.map((e) => (
          <li key={e.id} className="flex items-center gap-2 border-t border-line px-4 py-1 text-[13px]">
            <span className="w-11 shrink-0 text-ink-2">
              {new Date(e.at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}
            </span>
            <span className="truncate">{e.name}</span>
            <span className="ml-auto shrink-0">
              {dba(e.level)}, {Math.round(e.minutes)} min
            </span>
            <Button
              look="quiet"
              className="!px-1 !py-0"
              aria-label={`Delete ${e.name}`}
              onClick={() => setDoomed(e.id)}
            >
              <Trash2 size={14} />
            </Button>
          </li>
        ))}
      </ul>
      {exposures.length === 0 && (
        <p className="px-4 text-[13px] text-ink-2">
          Nothing yet. Readings with minutes to them count by themselves; headphones are logged here.
        </p>
      )}
      <Confirm
        open={doomed !== undefined}
        title="Delete this from the log of listening?"
        yes="Delete it"
        onClose={() => setDoomed(undefined)}
        onYes={() => doomed !== undefined && remove.mutate(doomed)}
      >
        The dose does without it from then on. A reading of the meter goes with it.
      </Confirm>
    </div>
  );
}
