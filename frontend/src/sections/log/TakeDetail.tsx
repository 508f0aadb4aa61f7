import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { answer, api, type Take } from "../../api/client";
import { Attachments } from "./Attachments";
import { Button, FIELD } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { currentHookup } from "../../parts/current";
import { VerdictMark } from "../../parts/Mark";
import { ForAll } from "../../parts/sharing/ForAll";
import { usePlay } from "../../parts/sound/usePlay";
import { Waveform } from "../../parts/sound/Waveform";
import { Failed } from "../../parts/states";

export const level = (value: number | null | undefined, unit: string) =>
  value === null || value === undefined
    ? "not measured"
    : `${value < 0 ? "−" : ""}${Math.abs(value).toFixed(1)} ${unit}`;

function Measured({ take }: { take: Take }) {
  const m = take.measures;
  const rows: [string, string][] = m
    ? [
        ["Peak", level(m.peak_dbfs, "dBFS")],
        ["True peak", level(m.true_peak_dbtp, "dBTP")],
        ["RMS", level(m.rms_dbfs, "dBFS")],
        ["Loudness", level(m.loudness_lufs, "LUFS")],
        ["Crest factor", level(m.crest_db, "dB")],
        ["Clipped runs", m.clipped_runs ? `${m.clipped_runs}: clipped, or a limiter at work` : "none"],
        ...(take.note.song_start !== null && take.note.song_start !== undefined
          ? [["Starts in the song at", `${take.note.song_start} s`] as [string, string]]
          : []),
        [
          "Length",
          `${m.seconds.toFixed(1)} s, ${m.rate / 1000} kHz, ${m.channels === 1 ? "mono" : "stereo"}`,
        ],
      ]
    : [["Peak, read off", level(take.note.measured_peak, "dBFS")]];
  return (
    <dl className="grid grid-cols-[130px_1fr] gap-y-1">
      <dt className="text-ink-2">Peak, expected</dt>
      <dd>
        {take.expected_peak === null
          ? "not computed"
          : `about ${level(take.expected_peak, "dBFS")}, flat out`}
      </dd>
      {rows.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-ink-2">{name}</dt>
          <dd className="font-semibold">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** The recording of a take, to be looked at and played. */
function Listen({ take }: { take: Take }) {
  const play = usePlay(take.id, take.measures!.seconds, take.measures!.rate);
  return (
    <div className="mt-2">
      <div className="flex h-[180px] flex-col touch:h-[224px]">
        <Waveform take={take} play={play} hints={false} />
      </div>
      <p className="mt-1 text-[12.5px] text-ink-2">
        {take.audio_name}
        {take.simulated && ", simulated"} ·{" "}
        <ForAll>
          <Link className="text-deep underline" to={`/capture/${take.hookup_id}?take=${take.id}`}>
            What it says, in Capture
          </Link>{" "}
          ·{" "}
        </ForAll>
        <a className="text-deep underline" href={`/api/takes/${take.id}/audio`} download>
          Save the file
        </a>
      </p>
    </div>
  );
}

/** What it was played on, how it is rated, what was done since. */
function Said({ note }: { note: Take["note"] }) {
  const rows = [
    ["Scene", note.scene],
    ["Guitar", note.guitar],
    ["Pickup", note.pickup],
    ["Volume on it", note.guitar_volume],
    ["Tuning", note.tuning],
    ["Rating", [note.guide && "a guide", note.rating].filter(Boolean).join(", ")],
    ["Done afterwards", note.afterwards],
  ].filter(([, value]) => value);
  if (rows.length === 0 && note.replaces == null) return null;
  return (
    <section className="mt-4">
      <h2 className="mb-1 text-[13px] font-bold">Played and rated</h2>
      <dl className="grid grid-cols-[130px_1fr] gap-y-1">
        {rows.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-ink-2">{name}</dt>
            <dd className="whitespace-pre-wrap">{value}</dd>
          </div>
        ))}
        {note.replaces != null && (
          <>
            <dt className="text-ink-2">Takes the place of</dt>
            <dd>
              <Link className="text-deep underline" to={`/log/${note.replaces}`}>
                its guide
              </Link>
            </dd>
          </>
        )}
      </dl>
    </section>
  );
}

/** One take: what was said, what was measured, and the way back to its hook-up. */
export function TakeDetail({
  take,
  others,
  onAgainst,
  onEdit,
}: {
  take: Take;
  /** Takes of the list beside it, to hold it against. */
  others: Take[];
  onAgainst: (id: number) => void;
  onEdit: () => void;
}) {
  const [asking, setAsking] = useState(false);
  const client = useQueryClient();
  const go = useNavigate();
  const path = { params: { path: { take_id: take.id } } };
  const recall = useMutation({
    mutationFn: () => answer(api.POST("/api/takes/{take_id}/recall", path)),
    onSuccess: (state) => {
      void client.invalidateQueries({ queryKey: ["hookups"] });
      currentHookup.set(state.id);
      void go(`/bench/${state.id}`);
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      answer(
        api.DELETE("/api/takes/{take_id}", {
          params: { ...path.params, query: { saves: take.saves } },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({
        predicate: (q) =>
          ["takes", "sessions", "hookup", "hookups", "capture"].includes(String(q.queryKey[0])),
      });
      void go("/log");
    },
    onError: () => void client.invalidateQueries({ queryKey: ["take"] }),
  });
  return (
    <article aria-label={`Take ${take.number}`} className="p-5">
      <p className="text-[12px] text-ink-2">
        Take {take.number},{" "}
        {new Date(take.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
      </p>
      <h2 className="text-[19px] font-bold">{take.note.name}</h2>
      <p className="text-ink-2">{take.note.part}</p>
      <p className="mt-3 flex items-center gap-2">
        <VerdictMark severity={take.severity} size={18} /> <b>{take.hookup}</b>
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        <ForAll>
          <Button look="main" disabled={recall.isPending} onClick={() => recall.mutate()}>
            Recall this hook-up
          </Button>
        </ForAll>
        <Button onClick={onEdit}>Edit</Button>
        {others.length > 0 && (
          <select
            aria-label="What differs from another take"
            className={`!w-auto max-w-[210px] ${FIELD}`}
            value=""
            onChange={(event) => event.target.value && onAgainst(Number(event.target.value))}
          >
            <option value="">what differs from …</option>
            {others.map((each) => (
              <option key={each.id} value={each.id}>
                {each.number}, {each.note.name}
              </option>
            ))}
          </select>
        )}
        <ForAll>
          <Button look="quiet" onClick={() => setAsking(true)}>
            Delete
          </Button>
        </ForAll>
      </div>
      {(recall.error ?? remove.error) && <Failed error={recall.error ?? remove.error} />}
      {take.accepted.length > 0 && (
        <section className="mt-4">
          <h2 className="mb-1 text-[13px] font-bold">Cautions accepted</h2>
          <ul>
            {take.accepted.map((a) => (
              <li key={a.caution}>
                {a.caution} <span className="text-ink-2">“{a.word}”</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section className="mt-4">
        <h2 className="mb-1 text-[13px] font-bold">Levels</h2>
        <Measured take={take} />
        {take.measures && take.audio && <Listen key={take.audio} take={take} />}
      </section>
      {(take.note.controls ?? []).length > 0 && (
        <section className="mt-4">
          <h2 className="mb-1 text-[13px] font-bold">Controls</h2>
          <dl className="flex flex-wrap gap-x-5 gap-y-1">
            {(take.note.controls ?? []).map((c) => (
              <div key={c.name}>
                <dt className="text-[12px] text-ink-2">{c.name}</dt>
                <dd className="font-semibold">{c.value || "not noted"}</dd>
              </div>
            ))}
          </dl>
        </section>
      )}
      <Said note={take.note} />
      <Attachments key={take.id} take={take.id} />
      {take.note.notes && (
        <section className="mt-4">
          <h2 className="mb-1 text-[13px] font-bold">Notes</h2>
          <p className="whitespace-pre-wrap">{take.note.notes}</p>
        </section>
      )}
      <Confirm
        open={asking}
        title={`Delete take ${take.number}?`}
        yes="Delete it"
        onClose={() => setAsking(false)}
        onYes={() => remove.mutate()}
      >
        Its notes, its copy of the hook-up and its audio file go for good.
      </Confirm>
    </article>
  );
}
