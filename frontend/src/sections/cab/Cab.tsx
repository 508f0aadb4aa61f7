import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { Confirm } from "../../parts/Confirm";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { NameIt } from "../../parts/NameIt";
import { OneOf, One } from "../../parts/OneOf";
import { Empty, Failed, Loading } from "../../parts/states";
import { fixed } from "../../parts/table";
import { useRecipe } from "./useRecipe";
import { Against } from "./Against";
import { Commit } from "./Commit";
import { Delay } from "./Delay";
import { Filter } from "./Filter";
import { FromLibrary } from "./FromLibrary";
import { HearIt } from "./HearIt";
import { Library } from "./Library";
import { Out } from "./Out";
import { Lost } from "./Lost";
import { New } from "./New";
import { Parts } from "./Parts";
import { Strips } from "./Strips";
import { Suggest } from "./Suggest";
import { LETTERS, MOST_PARTS, partOf, useBlend, type Blend } from "./useBlend";
import { useChoosing } from "./useChoosing";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));
const WAYS = [
  ["recorded", "as recorded"],
  ["onset", "by onset"],
  ["sum", "by best sum"],
] as const;
const useList = () => useQuery({ queryKey: ["blends"], queryFn: () => answer(api.GET("/api/blends")) });

function curvesOf(state: Blend) {
  if (state.filter) {
    const { stages, bare } = state.filter;
    return [
      { name: "the filter", values: state.response! },
      ...(stages ? [{ name: "its stages alone", values: stages }] : []),
      ...(bare ? [{ name: "the bare signal", values: bare }] : []),
    ];
  }
  const parts = state.parts.flatMap((part, i) =>
    part.gone || !part.heard ? [] : [{ name: `${LETTERS[i]} ${part.called}`, values: part.response }],
  );
  return state.response ? [{ name: "the blend", values: state.response }, ...parts] : parts;
}

function Work({ id }: { id: number }) {
  const go = useNavigate();
  const client = useQueryClient();
  const list = useList();
  const blend = useBlend(id);
  const { state, doc } = blend;
  const [at, setAt] = useState(0);
  const [asking, setAsking] = useState<"add" | "name" | "delete" | "out" | "commit" | "suggest" | "delay">();
  const close = () => setAsking(undefined);
  const choosing = useChoosing(id);
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE("/api/blends/{blend_id}", { params: { path: { blend_id: id } } })),
    onSuccess: () => {
      client.setQueryData<Schemas["BlendList"]>(["blends"], (had) =>
        had ? { blends: had.blends.filter((each) => each.id !== id) } : had,
      );
      void go("/cab");
    },
  });
  const lineUp = useMutation({
    mutationFn: (how: "recorded" | "onset" | "sum") =>
      answer(api.POST("/api/blends/line-up", { body: { doc: doc!, how } })),
    onSuccess: (made) => blend.change(made),
  });
  const recipe = useRecipe();
  useKeys({ u: blend.undo, U: blend.redo, a: () => doc?.school === "impulses" && setAsking("add") });
  if (blend.query.error && !state)
    return <Failed error={blend.query.error} retry={() => void blend.query.refetch()} />;
  if (!state || !doc) return <Loading what="the blend" />;
  const place = Math.min(at, Math.max(0, doc.parts.length - 1));
  const filtered = doc.school === "filter";
  const curves = curvesOf(state);
  const top = Math.max(0, ...curves.flatMap((c) => c.values));
  const high = Math.ceil(top / 5) * 5;
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:overflow-hidden">
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-5 py-2 text-[13px]">
        <select
          aria-label="Blend"
          className="max-w-[240px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
          value={id}
          onChange={(event) => void go(`/cab/${event.target.value}`)}
        >
          {(list.data?.blends ?? [{ id, name: state.name }]).map((each) => (
            <option key={each.id} value={each.id}>
              {each.id === id ? blend.name : each.name}
            </option>
          ))}
        </select>
        {!filtered && (
          <>
            <Button disabled={doc.parts.length >= MOST_PARTS} onClick={() => setAsking("add")}>
              <Plus size={14} /> From the library <Key>a</Key>
            </Button>
            <Button onClick={() => setAsking("suggest")}>Suggest …</Button>
          </>
        )}
        <Button onClick={() => blend.change({ school: filtered ? "impulses" : "filter" })}>
          {filtered ? "Impulse responses instead" : "Adjustable filter instead"}
        </Button>
        <Button look="quiet" onClick={() => void go("/cab/new")}>
          New
        </Button>
        <Button look="quiet" onClick={() => setAsking("name")}>
          Rename
        </Button>
        <Button look="quiet" onClick={() => setAsking("delete")}>
          Delete
        </Button>
        <Button look="quiet" onClick={recipe.choose}>
          Recipe in …
        </Button>
        {recipe.input}
        <span className="ml-auto flex items-center gap-2 text-ink-2">
          <Key>u</Key> undo
          <Button look="quiet" onClick={() => setAsking("delay")}>
            Delay …
          </Button>
          <Link className="underline" to="/cab/library">
            Library
          </Link>
          <Button disabled={!state.response} onClick={() => setAsking("out")}>
            Files out …
          </Button>
        </span>
      </div>
      {[blend.error, remove.error, lineUp.error, recipe.error].map(
        (each, i) => each && <Failed key={i} error={each} />,
      )}
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <div className="flex min-w-0 flex-1 flex-col">
          {!filtered && doc.parts.length === 0 ? (
            <Empty title="Nothing in this blend yet">
              One impulse response gives the tap a speaker; two or three from lows to highs, brought into
              line, give it more of one.
              <Button look="main" onClick={() => setAsking("add")}>
                From the library …
              </Button>
            </Empty>
          ) : (
            <>
              {!filtered && (
                <section
                  aria-label="In time"
                  className="flex shrink-0 flex-col px-5 pt-2"
                  style={{ height: Math.min(6, state.parts.length) * 66 + 52 }}
                >
                  <h2 className="flex shrink-0 items-baseline gap-3 pb-1 text-[13px] font-bold">
                    In time
                    <span className="font-normal text-ink-2">
                      slide a strip, or <Key>←</Key> <Key>→</Key> by 0.01 ms, which is 3.4 mm; <Key>+</Key>{" "}
                      <Key>−</Key> look closer
                    </span>
                  </h2>
                  <Strips
                    state={state}
                    doc={doc}
                    at={place}
                    onAt={setAt}
                    onDelay={(part, delay) => blend.changePart(part, { delay })}
                  />
                </section>
              )}
              <div className="min-h-[240px] flex-1 border-t border-line">
                <ChartFrame
                  roomy
                  label="In tone"
                  title={
                    <span className="flex flex-wrap items-baseline gap-3">
                      <b>In tone</b>
                      {!filtered && (
                        <OneOf
                          label="Brought into line"
                          value={doc.line_up}
                          onValue={(next) => lineUp.mutate(next as (typeof WAYS)[number][0])}
                          className="flex gap-1"
                        >
                          {WAYS.map(([way, name]) => (
                            <One
                              key={way}
                              value={way}
                              className="min-h-[24px] rounded px-1.5 font-semibold text-ink-2 hover:bg-faint data-[state=on]:bg-ink data-[state=on]:text-paper"
                            >
                              {name}
                            </One>
                          ))}
                        </OneOf>
                      )}{" "}
                      {lineUp.isPending && <span className="text-ink-2">bringing into line …</span>}
                    </span>
                  }
                  sentence=""
                  table={{
                    head: ["Frequency, Hz", ...curves.map((c) => `${c.name}, dB`)],
                    rows: state.frequency.map((f, i) => [f, ...curves.map((c) => fixed(c.values[i]!, 1))]),
                  }}
                >
                  {curves.length ? (
                    <Suspense fallback={<Loading what="the chart" />}>
                      <FrequencyChart
                        frequency={state.frequency}
                        curves={curves}
                        unit="dB"
                        digits={1}
                        domain={[high - 40, high]}
                      />
                    </Suspense>
                  ) : (
                    <p className="pt-4 text-ink-2">Nothing is heard: all parts are muted, or gone.</p>
                  )}
                </ChartFrame>
              </div>
              <Lost state={state} />
            </>
          )}
        </div>
        <aside
          aria-label="Parts, and how it sounds"
          className="shrink-0 border-t border-line bg-sheet lg:w-[348px] lg:overflow-y-auto lg:border-t-0 lg:border-l"
        >
          <h2 className="flex items-baseline justify-between border-b border-line px-4 py-2 text-[13px] font-bold">
            {filtered ? "Filter" : "Blend"} “{blend.name}”
            {!filtered && (
              <span className="font-normal text-ink-2">
                {doc.parts.length} of {MOST_PARTS}
              </span>
            )}
          </h2>
          {filtered ? (
            <Filter
              state={state}
              doc={doc}
              onFilter={(next) => blend.change({ filter: { ...doc.filter, ...next } })}
            />
          ) : (
            <Parts
              state={state}
              doc={doc}
              at={place}
              onAt={setAt}
              onPart={blend.changePart}
              onRemove={(gone) => blend.change({ parts: doc.parts.filter((_, i) => i !== gone) })}
            />
          )}{" "}
          {state.response && (
            <HearIt state={state} others={list.data?.blends ?? []} onHeard={choosing.count} />
          )}
          {state.report.length > 0 && (
            <Against state={state} doc={doc} onReference={(reference) => blend.change({ reference })} />
          )}
          <div className="flex flex-wrap items-center gap-2 px-4 py-2.5 text-[12.5px] text-ink-2">
            <Button disabled={!state.response} onClick={() => setAsking("commit")}>
              Take it for a part …
            </Button>
            <span className={choosing.over ? "font-semibold text-caution" : ""}>{choosing.words}</span>
          </div>
        </aside>
      </div>
      {asking === "add" && (
        <FromLibrary
          there={doc.parts.map((p) => p.impulse)}
          most={MOST_PARTS - doc.parts.length}
          onClose={close}
          onAdd={(ids) => {
            close();
            blend.change({ parts: [...doc.parts, ...ids.map(partOf)] });
          }}
        />
      )}
      {asking === "name" && (
        <NameIt
          title="Rename the blend"
          name={blend.name}
          yes="Rename it"
          onName={(name) => blend.change({}, name)}
          onClose={close}
        />
      )}
      {asking === "suggest" && (
        <Suggest
          blend={id}
          onClose={close}
          onTake={(parts) => {
            close();
            blend.change({ parts, line_up: "sum" });
          }}
        />
      )}
      {asking === "delay" && <Delay state={state} onClose={close} />}
      {asking === "out" && <Out state={state} onClose={close} />}
      {asking === "commit" && (
        <Commit state={state} tried={choosing.tried} onClose={close} onDone={choosing.done} />
      )}
      <Confirm
        open={asking === "delete"}
        title={`Delete “${state.name}”?`}
        yes="Delete it"
        onYes={() => remove.mutate()}
        onClose={close}
      >
        Its impulse responses stay in the library.
      </Confirm>
    </div>
  );
}

export default function Cab() {
  const { blendId } = useParams();
  const list = useList();
  if (blendId === "library") return <Library />;
  if (blendId === "new") return <New />;
  if (blendId) return <Work key={blendId} id={Number(blendId)} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the blends" />;
  const newest = list.data.blends[0];
  return newest ? <Navigate to={`/cab/${newest.id}`} replace /> : <New />;
}
