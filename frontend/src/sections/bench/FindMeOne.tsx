import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type BenchState, type Schemas } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { VerdictMark } from "../../parts/Mark";
import { Failed } from "../../parts/states";
import { useGear } from "../locker/gear";
import { usePreferences } from "../../parts/Preferences";
import { asNumberIfAny } from "../../parts/typed";
import { Panel } from "./Panel";
import { useFinder, useGoals, WISH, type Answer, type Wish } from "./useFinder";

interface Props {
  state: BenchState;
  onClose: () => void;
  onOpen: (hookup: string) => void;
}

function Choose({
  label,
  kind,
  value,
  onChange,
}: {
  label: string;
  kind: string;
  value: string;
  onChange: (id: string) => void;
}) {
  const gear = useGear("", kind, false);
  return (
    <Field label={label}>
      <select className={FIELD} value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="">any I own</option>
        {(gear.data?.entries ?? []).map(({ unit }) => (
          <option key={unit.id} value={unit.id}>
            {unit.name}
          </option>
        ))}
      </select>
    </Field>
  );
}

function Proposal({
  proposal,
  place,
  onOpen,
}: {
  proposal: Schemas["Proposal"];
  place: number;
  onOpen: Props["onOpen"];
}) {
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: async () => {
      for (const lead of proposal.needs ?? []) await answer(api.POST("/api/gear", { body: { ...lead } }));
      return answer(api.POST("/api/hookups", { body: { name: proposal.name, hookup: proposal.hookup } }));
    },
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["gear"] });
      client.setQueryData(["hookup", made.id], made);
      void client.invalidateQueries({ queryKey: ["hookups"] });
      onOpen(made.id);
    },
  });
  return (
    <li className="border-t border-line px-4 py-2.5">
      <p className="flex items-start gap-2">
        <span className="mt-0.5">
          <VerdictMark severity={proposal.severity} size={16} />
        </span>
        <span>
          <b>
            {place}. {proposal.name}
          </b>
          <span className="block text-[12.5px] text-ink">{proposal.figures.join(" · ")}</span>
          {proposal.worth_words && (
            <span className="block text-[12.5px] text-ink-2">{proposal.worth_words}</span>
          )}
        </span>
      </p>
      <details className="mt-1 text-[12.5px] text-ink-2">
        <summary className="cursor-pointer">why, and what it costs</summary>
        <ul className="mt-1 list-disc pl-5">
          {proposal.why.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
        <p className="mt-1 font-semibold">Against it</p>
        <ul className="list-disc pl-5">
          {proposal.costs.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </details>
      <Button className="mt-1.5" disabled={make.isPending} onClick={() => make.mutate()}>
        Open it as a new hook-up
      </Button>
      {(proposal.needs ?? []).length > 0 && (
        <p className="mt-1 text-[12.5px]">
          Puts into the locker what you do not have: <i>{proposal.needs!.map((l) => l.name).join("; ")}</i>
        </p>
      )}
      {make.error && <Failed error={make.error} />}
    </li>
  );
}

type Order = "best" | "price" | "weight";
const ORDERS: Record<Order, string> = {
  best: "the best first",
  price: "the cheapest first",
  weight: "the lightest first",
};

/** Proposals in an order; those whose papers say nothing come last. */
function ordered(proposals: Answer["proposals"], by: Order) {
  if (by === "best") return proposals;
  const of = (p: Schemas["Proposal"]) => (p.worth && p.worth[by] > 0 ? p.worth[by] : Infinity);
  return proposals.toSorted((a, b) => (of(a) === of(b) ? 0 : of(a) - of(b)));
}

function Found({ found, onOpen }: { found: Answer; onOpen: Props["onOpen"] }) {
  const [order, setOrder] = useState<Order>("best");
  const known = found.proposals.some((p) => p.worth_words);
  const clear = found.proposals.filter((p) => p.severity === "note" || p.severity === "fine").length;
  return (
    <div>
      <p role="status" className="px-4 py-1.5 text-[12.5px] text-ink-2">
        {found.looked_at} put together on paper,{" "}
        {found.proposals.length
          ? `${clear} clear, ${found.proposals.length - clear} with cautions:`
          : "a check stops each of them."}
      </p>
      {found.specification && (
        <section className="mx-4 mb-2 rounded-md border border-line bg-shoal px-3 py-2 text-[13px]">
          <h3 className="font-bold">Nothing you own does it. What would:</h3>
          <p>{found.specification.text}</p>
        </section>
      )}
      {known && (
        <label className="flex items-center gap-2 px-4 pb-1.5 text-[12.5px]">
          Sorted
          <select
            className="rounded border border-line bg-sheet px-1 py-0.5"
            value={order}
            onChange={(event) => setOrder(event.target.value as Order)}
          >
            {Object.entries(ORDERS).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
      )}
      <ol aria-label="Proposals">
        {ordered(found.proposals, order).map((proposal, i) => (
          <Proposal key={proposal.name + i} proposal={proposal} place={i + 1} onOpen={onOpen} />
        ))}
      </ol>
      <section className="border-t border-line px-4 py-2.5 text-[13px]">
        <h3 className="font-bold">Ways to do it</h3>
        <ul className="mt-1 grid gap-2">
          {found.ways.map((way) => (
            <li key={way.way}>
              <b className="font-semibold">{way.name}</b>{" "}
              <span className={way.possible ? "text-ink" : "text-ink-2"}>({way.standing})</span>
              <span className="block text-[12.5px] text-ink-2">
                For: {way.pro}. Against: {way.con}.
              </span>
            </li>
          ))}
        </ul>
      </section>
      {found.ruled_out.length > 0 && (
        <section className="border-t border-line px-4 py-2.5 text-[13px]">
          <h3 className="font-bold">Ruled out</h3>
          <ul className="mt-1 grid gap-1">
            {found.ruled_out.map((out) => (
              <li key={out.unit}>
                <b className="font-semibold">{out.name}</b>: <span className="text-ink-2">{out.why}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** From a wish and what is owned to hook-ups that no check stops, and why the others do not. */
export function FindMeOne({ state, onClose, onOpen }: Props) {
  const [wish, setWish] = useState<Wish>(WISH);
  const [down, setDown] = useState("12");
  const [bought, setBought] = useState({ price: "", weight: "" });
  const currency = usePreferences().data?.preferences.currency ?? "";
  const finder = useFinder();
  const goals = useGoals();
  const goal = goals.find((g) => g.id === wish.goal);
  const set = (part: Partial<Wish>) => setWish({ ...wish, ...part });
  return (
    <Panel title="Find me a hook-up" about="from what you own, by the same checks" onClose={onClose}>
      <div className="min-h-0 flex-1 overflow-y-auto pb-3">
        <form
          className="grid grid-cols-2 gap-x-3 gap-y-2 px-4 pb-2"
          onSubmit={(event) => {
            event.preventDefault();
            // What was typed goes as it is: the server says what is wrong with it.
            void finder.start(
              {
                ...wish,
                down_said: goal?.levelled ? down : "",
                most_price: asNumberIfAny(bought.price),
                most_weight: asNumberIfAny(bought.weight),
              },
              state.id,
            );
          }}
        >
          <div className="col-span-2">
            <Field label="I want">
              <select
                className={FIELD}
                value={wish.goal}
                onChange={(event) => set({ goal: event.target.value as Wish["goal"] })}
              >
                {goals.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            </Field>
          </div>
          {wish.goal !== "direct" && (
            <>
              <Choose label="Amp" kind="amp" value={wish.amp ?? ""} onChange={(amp) => set({ amp })} />
              <Choose
                label={wish.goal === "silent" ? "Sounding like" : "Cabinet"}
                kind="cabinet"
                value={wish.cabinet ?? ""}
                onChange={(cabinet) => set({ cabinet })}
              />
            </>
          )}
          {goal?.levelled && (
            <Field label="Down by" unit="dB, or a part">
              <TextInput
                placeholder="12, half the power, half as loud"
                maxLength={60}
                value={down}
                onChange={(event) => setDown(event.target.value)}
              />
            </Field>
          )}
          <label className="flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="accent-[var(--deep)]"
              checked={wish.line || Boolean(goal?.always_line)}
              disabled={goal?.always_line}
              onChange={(event) => set({ line: event.target.checked })}
            />
            and a line to the desk
          </label>
          <details className="col-span-2 text-[13px]">
            <summary className="min-h-[24px] cursor-pointer">If something has to be bought</summary>
            <div className="mt-1 grid grid-cols-2 gap-x-3">
              <Field label="For at most" unit={currency}>
                <TextInput
                  inputMode="decimal"
                  value={bought.price}
                  onChange={(event) => setBought({ ...bought, price: event.target.value })}
                />
              </Field>
              <Field label="Weighing at most" unit="kg">
                <TextInput
                  inputMode="decimal"
                  value={bought.weight}
                  onChange={(event) => setBought({ ...bought, weight: event.target.value })}
                />
              </Field>
            </div>
          </details>
          <span className="col-start-2 flex justify-end gap-2">
            {finder.running && <Button onClick={finder.stop}>Stop</Button>}
            <Button look="main" type="submit" disabled={finder.running}>
              Look for one
            </Button>
          </span>
        </form>
        {finder.running && (
          <p role="status" className="px-4 py-1.5 text-[13px] text-ink-2">
            {finder.progress
              ? `${finder.progress.looked_at} so far, ${finder.progress.doing} …`
              : "Looking …"}
          </p>
        )}
        {finder.error && <Failed error={finder.error} />}
        {finder.found && <Found found={finder.found} onOpen={onOpen} />}
      </div>
    </Panel>
  );
}
