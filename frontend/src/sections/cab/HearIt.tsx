import { Pause, Play } from "lucide-react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../../api/client";
import { Button, FIELD, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Blind } from "../compare/Blind";
import { usePlayTogether } from "../compare/usePlayTogether";
import { PartFields } from "../compare/PartFields";
import type { Blend } from "./useBlend";

const BUILT_IN = ["driven", "clean"];
const BARE = 0;
const SHOWN = 3;

/** The blend on a take: driven and clean at hand, the bare tap for comparison, all as loud, changed over without a gap. */
export function HearIt({
  state,
  others,
  onHeard,
}: {
  state: Blend;
  others: readonly { id: number; name: string }[];
  onHeard: () => void;
}) {
  const [blind, setBlind] = useState(false);
  const listed = ["blend-runs", state.id];
  const runs = useQuery({
    queryKey: listed,
    queryFn: () =>
      answer(api.GET("/api/blends/{blend_id}/runs", { params: { path: { blend_id: state.id } } })),
  });
  const over = (runs.data?.runs ?? []).filter((run) => run.over).reverse();
  const sources = useQuery({
    queryKey: ["blend-sources"],
    queryFn: () => answer(api.GET("/api/blends/sources")),
  });
  const [source, setSource] = useState("driven");
  const [bare, setBare] = useState(false);
  const [part, setPart] = useState({ start: 0, stop: 7 });
  const found = sources.data?.sources ?? [];
  const chosen = found.find((s) => s.id === source);
  const together = usePlayTogether((name, { start, stop }) => {
    const [saves, id, tap] = name.split("|");
    return `/api/blends/${state.id}/sound?source=${id}&start=${start}&stop=${stop}&bare=${tap === "bare"}&saves=${saves}`;
  });
  const heard = (id: string, tap: boolean) => `${state.saves}|${id}|${tap ? "bare" : "blend"}`;
  const { play, takeOver, isPlaying } = together;
  const name = heard(source, bare);
  const playing = useRef(isPlaying);
  playing.current = isPlaying;
  useEffect(() => {
    if (playing.current) void takeOver(name);
  }, [name, takeOver]);
  useEffect(() => {
    if (isPlaying && !bare) onHeard();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- counted when what is heard changes, not when its counter does
  }, [name, isPlaying, bare]);
  const toggle = () => (isPlaying ? together.stop() : void play([name], name, part));
  const choose = (id: string) => {
    const next = found.find((s) => s.id === id);
    setSource(id);
    const stop = Math.min(next?.seconds ?? 7, part.stop);
    if (stop - part.start < 1) setPart({ start: 0, stop: Math.min(7, next?.seconds ?? 7) });
    if (isPlaying && !BUILT_IN.includes(id)) together.stop();
  };
  useKeys({ " ": toggle, b: () => setBare(!bare) });
  return (
    <section aria-label="Hear it" className="border-b border-line px-4 py-2 text-[13px]">
      <h2 className="font-bold">
        Hear it <span className="font-normal text-ink-2">matched in loudness, no gap</span>
      </h2>
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
        <Button look="main" onClick={toggle}>
          {isPlaying ? <Pause size={14} /> : <Play size={14} />} {isPlaying ? "Stop" : "Play"}
        </Button>
        {BUILT_IN.map((id) => (
          <Button
            key={id}
            look={source === id ? "main" : "plain"}
            aria-pressed={source === id}
            onClick={() => choose(id)}
          >
            {id}
          </Button>
        ))}
        <Button look={bare ? "main" : "plain"} aria-pressed={bare} onClick={() => setBare(!bare)}>
          bare tap <Key>b</Key>
        </Button>
        <Button
          onClick={() => {
            together.stop();
            setBlind(true);
          }}
        >
          blind …
        </Button>
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-x-2 gap-y-1 text-[12.5px]">
        <select
          aria-label="Heard on"
          className={`${FIELD} !w-[150px] !py-0.5`}
          value={source}
          onChange={(event) => choose(event.target.value)}
        >
          {found.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
        <PartFields part={part} length={chosen?.seconds ?? 7} onPart={setPart} />
      </div>
      {chosen?.warning && <p className="mt-1 text-[12.5px] font-medium text-caution">{chosen.warning}</p>}
      {together.failed && (
        <p role="alert" className="mt-1 text-[12.5px] text-stop">
          It could not be played: the server did not give the sound.
        </p>
      )}
      {over.length > 0 && (
        <ul aria-label="Blind, so far" className="mt-1 text-[12.5px] text-ink-2">
          {over.slice(0, SHOWN).map((run) => (
            <li key={run.id}>{run.said}</li>
          ))}
        </ul>
      )}
      {blind && (
        <Blind
          choices={[
            { id: state.id, name: state.name },
            ...others.filter((each) => each.id !== state.id),
            { id: BARE, name: "the bare tap" },
          ]}
          fixed
          start={({ kind, b, trials }) =>
            answer(
              api.POST("/api/blends/{blend_id}/runs", {
                params: { path: { blend_id: state.id } },
                body: { run: { kind, other: b === BARE ? null : b, source, trials } },
              }),
            )
          }
          listed={listed}
          part={part}
          onClose={() => setBlind(false)}
        />
      )}
    </section>
  );
}
