import { useQuery } from "@tanstack/react-query";
import { Ellipsis, Pause, Play } from "lucide-react";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import { Menu } from "../../parts/Menu";
import { One, OneOf } from "../../parts/OneOf";
import { fixed } from "../../parts/table";
import { Blind } from "./Blind";
import { MovesTable } from "./Moves";
import { Take } from "./Take";
import { docOf, LETTERS, type Comparison, type Doc, type Part } from "./useComparison";
import type { Together } from "./usePlayTogether";

/** What is heard, chosen by letter; blind runs, the comparison file, and what was picked. */
export function Listen({
  state,
  at,
  onAt,
  part,
  together,
  onToggle,
  onHear,
  onChange,
}: {
  state: Comparison;
  at: number;
  onAt: (place: number) => void;
  part: Part;
  together: Together;
  onToggle: () => void;
  onHear: (place: number) => void;
  onChange: (next: Partial<Doc>) => void;
}) {
  const [blind, setBlind] = useState(false);
  const [taking, setTaking] = useState(false);
  const [file, setFile] = useState(false);
  const runs = useQuery({
    queryKey: ["runs", state.id],
    queryFn: () =>
      answer(
        api.GET("/api/comparisons/{comparison_id}/runs", { params: { path: { comparison_id: state.id } } }),
      ),
  });
  const over = (runs.data?.runs ?? []).filter((run) => run.over);
  const heard = state.tracks.filter((t) => t.heard).length;
  const { tracks } = docOf(state);
  const move = (from: number, to: number) => {
    const next = [...tracks];
    next.splice(to, 0, ...next.splice(from, 1));
    onChange({ tracks: next });
    onAt(to === 0 ? 1 : to);
  };
  const off = (place: number) => {
    onChange({ tracks: tracks.filter((_, i) => i !== place) });
    onAt(1);
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <OneOf
        label="Heard"
        value={String(state.tracks.findIndex((t) => t.audio === together.heard && t.heard))}
        onValue={(next) => onHear(Number(next))}
        className="block"
      >
        {state.tracks.map((track, i) => (
          <div
            key={`${track.audio}${track.take}`}
            className={`flex items-center gap-1 border-b border-line pr-2 ${together.isPlaying && track.audio === together.heard ? "bg-shoal" : ""}`}
          >
            <One
              value={String(i)}
              disabled={!track.heard}
              className="flex min-w-0 flex-1 items-center gap-3 py-2 pl-4 text-left disabled:opacity-60"
            >
              <span
                aria-hidden
                className={`flex size-[30px] shrink-0 items-center justify-center rounded-md border-[1.5px] border-ink font-bold ${together.isPlaying && track.audio === together.heard ? "bg-ink text-paper" : "bg-sheet"}`}
              >
                {LETTERS[i]}
              </span>
              <span className="min-w-0">
                <span className="block truncate font-semibold">{track.called}</span>
                <span className="block truncate text-[12.5px] text-ink-2">
                  {[
                    typeof track.held?.lufs === "number" && `${fixed(track.held.lufs, 1)} LUFS`,
                    track.simulated && "simulated",
                    i === 0 ? "reference" : track.lies,
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
              </span>
            </One>
            <Menu
              trigger={
                <button
                  type="button"
                  aria-label={`What to do with ${track.called}`}
                  className="shrink-0 rounded-md p-1.5 text-ink-2 hover:bg-faint"
                >
                  <Ellipsis size={16} />
                </button>
              }
              items={[
                ...(i > 0 ? [{ label: "Make it the reference", run: () => move(i, 0) }] : []),
                ...(i > 1 ? [{ label: "Further up", run: () => move(i, i - 1) }] : []),
                ...(i > 0 && i < state.tracks.length - 1
                  ? [{ label: "Further down", run: () => move(i, i + 1) }]
                  : []),
                { label: "Take it off the list", run: () => off(i) },
              ]}
            />
          </div>
        ))}
      </OneOf>
      <div className="flex flex-wrap gap-2 border-b border-line px-4 py-2.5">
        <Button look="main" disabled={heard === 0} onClick={onToggle}>
          {together.isPlaying ? <Pause size={14} /> : <Play size={14} />}{" "}
          {together.isPlaying ? "Stop" : "Play"}
        </Button>
        <Button disabled={heard < 2} onClick={() => setBlind(true)}>
          Blind …
        </Button>
        <Button disabled={heard < 2} aria-expanded={file} onClick={() => setFile(!file)}>
          Comparison file …
        </Button>
        {together.failed && (
          <p role="alert" className="basis-full text-[12.5px] text-stop">
            It could not be played: the sound is no longer there. Compare again.
          </p>
        )}
        {file && (
          <p className="basis-full text-[12.5px] text-ink-2">
            {state.sections.length > 0 ? "Your sections" : "The suggested sections"} of all in turn, matched,
            24-bit, with cue points and a text of what is heard when:{" "}
            <a className="text-deep underline" href={`/api/comparisons/${state.id}/file.zip`} download>
              with names
            </a>
            ,{" "}
            <a
              className="text-deep underline"
              href={`/api/comparisons/${state.id}/file.zip?blind=true`}
              download
            >
              blind
            </a>
            . <KeyOf id={state.id} />
          </p>
        )}
      </div>
      <section aria-label="Dynamics" className="border-b border-line px-4 py-2.5">
        <h3 className="pb-1 text-[13px] font-bold">Dynamics</h3>
        <MovesTable state={state} at={at} />
      </section>
      <section aria-label="Blind, so far" className="px-4 py-2.5 text-[13px]">
        <h3 className="font-bold">Blind, so far</h3>
        {over.length === 0 && (
          <p className="text-ink-2">Nothing yet. Level is matched, so what is left is the sound.</p>
        )}
        {over.slice(-4).map((run) => (
          <p key={run.id} className="pt-0.5 text-ink-2">
            {run.said}
          </p>
        ))}
        <Button className="mt-2" disabled={heard === 0} onClick={() => setTaking(true)}>
          Take one, and say why …
        </Button>
      </section>
      {blind && (
        <Blind
          choices={state.tracks.flatMap((track, id) => (track.heard ? [{ id, name: track.called }] : []))}
          start={(run) =>
            answer(
              api.POST("/api/comparisons/{comparison_id}/runs", {
                params: { path: { comparison_id: state.id } },
                body: { run },
              }),
            )
          }
          listed={["runs", state.id]}
          part={part}
          onClose={() => setBlind(false)}
        />
      )}
      {taking && <Take state={state} at={at} onClose={() => setTaking(false)} />}
    </div>
  );
}

/** The key of a blind file, asked for by the word in its text. */
function KeyOf({ id }: { id: number }) {
  const [word, setWord] = useState("");
  const whole = /^[0-9a-f]{12}$/.test(word.trim());
  return (
    <label className="mt-1 flex items-center gap-1.5">
      key to
      <input
        className="w-[120px] rounded-md border border-line bg-sheet px-1.5 py-0.5 text-ink"
        placeholder="its word"
        value={word}
        maxLength={14}
        onChange={(e) => setWord(e.target.value)}
      />
      {whole && (
        <a className="text-deep underline" href={`/api/comparisons/${id}/key/${word.trim()}.txt`} download>
          the key
        </a>
      )}
    </label>
  );
}
