import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Session } from "../../api/client";
import { Button, Field, FIELD } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed, Loading } from "../../parts/states";

const KINDS = {
  dry: "dry, no amp",
  bare: "bare, wants a speaker",
  speaker: "with its speaker",
  unknown: "not known",
  blended: "through the blend",
};

/** A folder for whoever mixes: which takes, through which blend, what is in it and what is not. */
export function HandOver({ session, onClose }: { session: Session; onClose: () => void }) {
  const [without, setWithout] = useState<number[]>([]);
  const [blend, setBlend] = useState<number>();
  const blends = useQuery({ queryKey: ["blends"], queryFn: () => answer(api.GET("/api/blends")) });
  const path = { session_id: session.id };
  const all = useQuery({
    queryKey: ["takes", "hand-over", session.id],
    queryFn: () => answer(api.GET("/api/sessions/{session_id}/hand-over", { params: { path } })),
  });
  const there = all.data?.files ?? [];
  const chosen = there.map((f) => f.take).filter((take) => !without.includes(take));
  const query = { takes: without.length ? chosen.join(",") : "", blend };
  const plan = useQuery({
    queryKey: ["takes", "hand-over", session.id, query],
    queryFn: () => answer(api.GET("/api/sessions/{session_id}/hand-over", { params: { path, query } })),
    enabled: chosen.length > 0,
    placeholderData: keepPreviousData,
  });
  const address = `/api/sessions/${session.id}/hand-over.zip?takes=${chosen.join(",")}${blend ? `&blend=${blend}` : ""}`;
  const extra = (plan.data?.files ?? []).filter((f) => f.kind === "blended");
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={`“${session.name}”, to be mixed`}
      about="WAV files that all begin at one place in the song, their samples as they were, with a text that says what each is."
    >
      {all.error && <Failed error={all.error} />}
      {all.isPending && <Loading what="the takes" />}
      {all.data && there.length === 0 && (
        <p className="mt-3">No take of it has a recording that is not rated “no”.</p>
      )}
      {there.length > 0 && (
        <div className="mt-3 grid gap-3">
          <ul className="max-h-[38vh] overflow-y-auto rounded-md border border-line">
            {there.map((file) => (
              <li key={file.take} className="border-b border-line last:border-b-0">
                <label className="flex items-baseline gap-x-2 px-2.5 py-1.5 text-[13px] max-sm:flex-wrap">
                  <input
                    type="checkbox"
                    className="accent-[var(--deep)]"
                    checked={!without.includes(file.take)}
                    onChange={(e) =>
                      setWithout(
                        e.target.checked ? without.filter((t) => t !== file.take) : [...without, file.take],
                      )
                    }
                  />
                  <span className="min-w-0 flex-1 break-words">{file.name}</span>
                  <span className="shrink-0 text-ink-2 max-sm:basis-full max-sm:pl-5">
                    {KINDS[file.kind]},{" "}
                    {file.song_start === null ? "place not known" : `at ${file.song_start} s`}
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <Field
            label="Also through the blend"
            hint="What has its speaker already, or may have, is left as it is."
          >
            <select
              className={FIELD}
              value={blend ?? ""}
              onChange={(e) => setBlend(e.target.value ? Number(e.target.value) : undefined)}
            >
              <option value="">none</option>
              {blends.data?.blends.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          </Field>
          {plan.error && <Failed error={plan.error} />}
          {plan.data && chosen.length > 0 && (
            <div role="status" className="text-[13px]">
              <p>
                {plan.data.files.length} files, {Math.round(plan.data.seconds)} s of sound in all;{" "}
                {plan.data.files.some((f) => f.song_start !== null)
                  ? `each begins ${plan.data.begins} s into the song.`
                  : "of none it is known where in the song it begins."}
                {extra.length > 0 && ` ${extra.length} of them through the blend.`}
              </p>
              {plan.data.left_out.map((said) => (
                <p key={said} className="text-caution">
                  {said}
                </p>
              ))}
            </div>
          )}
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button
              look="main"
              disabled={chosen.length === 0 || plan.isError || plan.isPending}
              onClick={() => window.location.assign(address)}
            >
              Save the folder
            </Button>
          </div>
        </div>
      )}
    </Sheet>
  );
}
