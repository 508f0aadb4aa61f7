import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { One, OneOf } from "../../parts/OneOf";
import { ForAll } from "../../parts/sharing/ForAll";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { asNumberIfAny } from "../../parts/typed";
import { useGear } from "../locker/gear";

type Kind = Schemas["NeighbourSaid"]["kind"];
const ONE =
  "rounded-md border border-line px-2.5 py-1 text-[13px] data-[state=on]:border-ink data-[state=on]:bg-ink data-[state=on]:font-semibold data-[state=on]:text-paper";

/** Limits that places should have by what was said there, each put on with one press. */
export function Proposals() {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: ["lines", "limits"],
    queryFn: () => answer(api.GET("/api/neighbours/limits")),
  });
  const accept = useMutation({
    mutationFn: (place: string) =>
      answer(api.POST("/api/neighbours/limits/{place_id}", { params: { path: { place_id: place } } })),
    onSettled: () => void client.invalidateQueries(),
  });
  const found = query.data?.proposals ?? [];
  return (
    <>
      {found.map((each) => (
        <div key={each.place} role="status" className="mb-1.5 rounded-md border border-caution px-2.5 py-1.5">
          {each.why.map((why) => (
            <p key={why} className="text-[13px]">
              <b>{each.name}.</b> {why}
            </p>
          ))}
          <ForAll otherwise={<p className="text-[13px] text-ink-2">It is made the limit at the desk.</p>}>
            <Button className="mt-1" disabled={accept.isPending} onClick={() => accept.mutate(each.place)}>
              Make it the limit of {each.name}
            </Button>
          </ForAll>
        </div>
      ))}
      {accept.error && <Failed error={accept.error} />}
    </>
  );
}

/** A complaint, or that there was none: where, when, and how loud it was there. */
export function NeighbourForm({ session, onClose }: { session?: number; onClose: () => void }) {
  const places = (useGear("", "place", false).data?.entries ?? []).map(({ unit }) => unit);
  const theirs = places.filter((p) => !("ears" in p && p.ears));
  const [kind, setKind] = useState<Kind>("complaint");
  const [typed, setTyped] = useState({ place: "", level: "", at: "", words: "" });
  const client = useQueryClient();
  const place = typed.place || theirs[0]?.id || "";
  const hookup = currentHookup.get();
  const expected = useQuery({
    queryKey: ["notice", hookup],
    enabled: Boolean(hookup),
    queryFn: () =>
      answer(api.GET("/api/hookups/{hookup_id}/notice", { params: { path: { hookup_id: hookup! } } })),
    retry: false,
  });
  const there = expected.data?.places.find((p) => p.place === place);
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/neighbours", {
          body: {
            said: { kind, place, level: asNumberIfAny(typed.level), words: typed.words },
            at: typed.at,
            session: session ?? null,
          },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["lines"] });
      void client.invalidateQueries({ queryKey: ["sessions"] });
      onClose();
    },
  });
  const set = (change: Partial<typeof typed>) => setTyped({ ...typed, ...change });
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const problem = (name: string) => {
    const at = refusal?.fields.findIndex((f) => f.includes(name)) ?? -1;
    return at >= 0 ? refusal?.problems[at] : undefined;
  };
  return (
    <Sheet
      open
      onClose={onClose}
      title="What a neighbour said"
      about="It goes into the log with its hour. From complaints, and from what passed without one, a limit is proposed for the place."
    >
      <form
        className="mt-3 grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <OneOf label="What was said" value={kind} onValue={(k) => setKind(k as Kind)} className="flex gap-1">
          <One value="complaint" className={ONE}>
            a complaint
          </One>
          <One value="none" className={ONE}>
            nothing to complain of
          </One>
        </OneOf>
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label="At">
            <select className={FIELD} value={place} onChange={(e) => set({ place: e.target.value })}>
              {theirs.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
          </Field>
          <Field label="When" hint="Left empty: now." problem={problem("at")}>
            <TextInput type="datetime-local" value={typed.at} onChange={(e) => set({ at: e.target.value })} />
          </Field>
          <Field
            label="Level there"
            unit="dBA"
            problem={problem("level")}
            hint={
              there?.level != null ? (
                <button
                  type="button"
                  className="text-left text-deep underline"
                  onClick={() => set({ level: there.level!.toFixed(0) })}
                >
                  About {there.level.toFixed(0)} dBA is predicted for “{expected.data?.name}”: take it
                </button>
              ) : (
                "Without one it proposes nothing."
              )
            }
          >
            <TextInput
              inputMode="decimal"
              value={typed.level}
              onChange={(e) => set({ level: e.target.value })}
            />
          </Field>
          <Field label="In words" problem={problem("words")}>
            <TextInput maxLength={800} value={typed.words} onChange={(e) => set({ words: e.target.value })} />
          </Field>
        </div>
        {theirs.length === 0 && (
          <p className="text-ink-2">
            There is no place of a neighbour yet.{" "}
            <ForAll otherwise="It is added at the desk, in the Locker, as a place.">
              <Link className="text-deep underline" to="/locker">
                Add one in the Locker
              </Link>
              , as a place.
            </ForAll>
          </p>
        )}
        {refusal && refusal.fields.length === 0 && <Failed error={refusal} />}
        <div className="flex flex-wrap items-center justify-end gap-2">
          {hookup && (
            <Link className="mr-auto text-deep underline" to={`/log/notice/${hookup}`}>
              A notice for them, to print
            </Link>
          )}
          <Button onClick={onClose}>Discard changes</Button>
          <Button look="main" type="submit" disabled={!place || save.isPending}>
            Write it down
          </Button>
        </div>
      </form>
    </Sheet>
  );
}
