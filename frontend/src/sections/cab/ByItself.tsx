import { useMutation } from "@tanstack/react-query";
import { lazy, Suspense, useState, type ReactNode } from "react";
import { answer, api } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { Button, Key } from "../../parts/controls";
import { One, OneOf } from "../../parts/OneOf";
import { Empty, Failed, Loading } from "../../parts/states";
import { fixed } from "../../parts/table";
import { Against } from "./Against";
import { Filter } from "./Filter";
import { HearIt } from "./HearIt";
import { Lost } from "./Lost";
import { Parts } from "./Parts";
import { Strips } from "./Strips";
import { LETTERS, MOST_PARTS, type Blend, type BlendEdits } from "./useBlend";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));
const WAYS = [
  ["recorded", "as recorded"],
  ["onset", "by onset"],
  ["sum", "by best sum"],
] as const;
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

/** A blend by itself: its strips in time, its tone, its parts or the stages of its filter, and how it sounds. */
export function ByItself({
  blend,
  others,
  onAdd,
  onHeard,
  children,
}: {
  blend: BlendEdits;
  others: readonly { id: number; name: string }[];
  onAdd: () => void;
  onHeard: () => void;
  children: ReactNode;
}) {
  const state = blend.state!;
  const doc = blend.doc!;
  const [at, setAt] = useState(0);
  const lineUp = useMutation({
    mutationFn: (how: "recorded" | "onset" | "sum") =>
      answer(api.POST("/api/blends/line-up", { body: { doc, how } })),
    onSuccess: (made) => blend.change(made),
  });
  const place = Math.min(at, Math.max(0, doc.parts.length - 1));
  const filtered = doc.school === "filter";
  const curves = curvesOf(state);
  const top = Math.max(0, ...curves.flatMap((c) => c.values));
  const high = Math.ceil(top / 5) * 5;
  return (
    <>
      <div className="flex min-w-0 flex-1 flex-col">
        {lineUp.error && <Failed error={lineUp.error} />}
        {!filtered && doc.parts.length === 0 ? (
          <Empty title="Nothing in this blend yet">
            One impulse response gives the tap a speaker; two or three from lows to highs, brought into line,
            give it more of one.
            <Button look="main" onClick={onAdd}>
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
        )}
        {state.response && <HearIt state={state} others={others} onHeard={onHeard} />}
        {state.report.length > 0 && (
          <Against state={state} doc={doc} onReference={(reference) => blend.change({ reference })} />
        )}
        {children}
      </aside>
    </>
  );
}
