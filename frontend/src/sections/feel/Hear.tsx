import { useMutation } from "@tanstack/react-query";
import { Play, Square } from "lucide-react";
import { useRef, useState } from "react";
import { sendFile, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { short, signed } from "../../parts/table";
import { One, OneOf } from "../../parts/OneOf";
import { Blind, TRACK } from "./Blind";
import { type AmpOf, type Feel } from "./useFeel";
import { usePlayer } from "../../parts/sound/usePlayer";
import { useRender, type Rendered } from "./useRender";

const NO_FILES: string[] = [];

function Listen({ rendered, damping }: { rendered: Rendered; damping: number }) {
  const [blind, setBlind] = useState(false);
  const player = usePlayer(
    rendered.tracks.length ? rendered.tracks.map((t) => `/api/renders/${t.file}`) : NO_FILES,
  );
  if (player.failed) {
    return (
      <p className="px-4 py-2 text-[13px] text-caution">
        The sound has gone from the server. Render it again.
      </p>
    );
  }
  return (
    <section aria-label="Listen" className="border-t border-line px-4 py-2.5">
      <div className="flex items-center gap-2">
        <Button
          look="main"
          disabled={!player.ready}
          onClick={() => (player.isPlaying ? player.stop() : player.play())}
        >
          {player.isPlaying ? <Square size={14} /> : <Play size={14} />} {player.isPlaying ? "Stop" : "Play"}
        </Button>
        <span className="text-[13px] text-ink-2" role="timer" aria-label="Place in the take">
          {player.ready
            ? `${player.place.toFixed(1)} of ${player.length.toFixed(1)} s`
            : "reading the sound …"}
        </span>
        <label className="ml-auto flex items-center gap-1.5 text-[13px]">
          <input
            type="checkbox"
            className="accent-[var(--deep)]"
            checked={blind}
            disabled={rendered.tracks.length < 2}
            onChange={(e) => setBlind(e.target.checked)}
          />
          blind
        </label>
      </div>
      {blind ? (
        <Blind rendered={rendered} player={player} damping={damping} />
      ) : (
        <OneOf label="Heard through" value={String(player.at)} onValue={() => undefined} className="mt-2">
          {rendered.tracks.map((track, i) => (
            <One
              key={track.choice}
              value={String(i)}
              data-file={track.file}
              onClick={() => (player.isPlaying ? player.hear(i) : player.play(i))}
              className={`${TRACK} aria-checked:border-ink aria-checked:bg-shoal aria-checked:font-semibold`}
            >
              <span className="min-w-0 truncate">{track.name}</span>
              <span className="ml-auto shrink-0 text-[12px] font-normal text-ink-2">
                {signed(track.gain_db)} dB to match
              </span>
            </One>
          ))}
        </OneOf>
      )}
    </section>
  );
}

/** A take through each picked load, level-matched, to be heard side by side, openly or blind. */
export function Hear({ hookup, chosen, amp }: { hookup: string; chosen: Feel[]; amp: AmpOf }) {
  const [drive, setDrive] = useState(6);
  const [source, setSource] = useState<Schemas["Source"]>();
  const file = useRef<HTMLInputElement>(null);
  const render = useRender(hookup);
  const bring = useMutation({
    mutationFn: (each: File) =>
      sendFile<Schemas["Source"]>(`/api/feel/source?name=${encodeURIComponent(each.name)}`, each),
    onSuccess: setSource,
  });
  const { progress, rendered } = render;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pb-3">
      <div className="px-4 py-2.5 text-[13px]">
        <p className="text-ink-2">
          An illustration: a soft limit, then this amp’s output into each load, then one cab filter. It shows
          tone; how a power stage feels and sags it does not.
        </p>
        <p className="mt-2">
          <b>Take:</b>{" "}
          {source ? `${source.name}, ${short(source.seconds)} s` : "built in, plucked strings, 10.5 s"}
        </p>
        <div className="mt-1 flex gap-2">
          <input
            ref={file}
            type="file"
            accept=".wav,.flac,.aif,.aiff,audio/*"
            aria-label="Direct track"
            className="hidden"
            onChange={(event) => {
              const each = event.target.files?.[0];
              event.target.value = "";
              if (each) bring.mutate(each);
            }}
          />
          <Button disabled={bring.isPending} onClick={() => file.current?.click()}>
            {bring.isPending ? "Reading it …" : "A direct track of mine …"}
          </Button>
          {source && (
            <Button look="quiet" onClick={() => setSource(undefined)}>
              The built-in one
            </Button>
          )}
        </div>
        <label className="mt-2 flex items-center gap-2">
          <b>Drive</b>
          <input
            type="range"
            min={-12}
            max={30}
            step={3}
            value={drive}
            onChange={(e) => setDrive(Number(e.target.value))}
            className="flex-1 accent-[var(--deep)]"
            aria-valuetext={`${drive} dB`}
          />
          <span className="w-12 text-right">{signed(drive)} dB</span>
        </label>
        <p className="mt-2">
          <b>Through:</b>{" "}
          {chosen.length
            ? chosen.map((f) => f.label).join("; ")
            : "nothing yet; pick loads in the list first."}
        </p>
        <div className="mt-2 flex items-center gap-2">
          <Button
            look="main"
            disabled={chosen.length === 0 || chosen.length > 12 || render.running}
            onClick={() =>
              void render.start({
                choices: chosen.map((f) => f.id),
                source: source?.id ?? "",
                drive_db: drive,
                ...amp,
              })
            }
          >
            Render it through {chosen.length === 1 ? "it" : `all ${chosen.length}`}
          </Button>
          {render.running && <Button onClick={render.stop}>Stop</Button>}
        </div>
        {render.running && (
          <p role="status" className="mt-1.5 text-ink-2">
            {progress ? `${progress.done} of ${progress.of}: ${progress.name} …` : "Beginning …"}
            <progress className="mt-1 block w-full" max={progress?.of ?? 1} value={progress?.done ?? 0} />
          </p>
        )}
        {(bring.error ?? render.error) && <Failed error={bring.error ?? render.error} />}
      </div>
      {rendered && <Listen rendered={rendered} damping={amp.damping} />}
    </div>
  );
}
