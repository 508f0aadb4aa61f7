import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { FileCog, Plus, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { answer, api, sendFile, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { useFileDrop } from "../../parts/useFileDrop";

type Attachment = Schemas["Attachment"];

const address = (each: Attachment) => `/api/attachments/${each.id}`;
const sizeWords = (bytes: number) =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

function useAttachments(take: number) {
  const client = useQueryClient();
  const key = ["attachments", take];
  const stale = () => void client.invalidateQueries({ queryKey: key });
  const path = { take_id: take };
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/takes/{take_id}/attachments", { params: { path } })),
  });
  const add = useMutation({
    // One after the other, so that what was taken stays where a later one is refused.
    mutationFn: async (files: File[]) => {
      for (const file of files) {
        const kind = file.type.startsWith("image/") ? "photo" : "preset";
        const asked = `kind=${kind}&name=${encodeURIComponent(file.name.slice(0, 300))}`;
        await sendFile<Attachment>(`/api/takes/${take}/attachments?${asked}`, file);
      }
    },
    onSettled: stale,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/attachments/{attachment_id}", { params: { path: { attachment_id: id } } })),
    onSettled: stale,
  });
  return { query, add, remove };
}

/** Photos of knobs and preset files kept with a take. */
export function Attachments({ take }: { take: number }) {
  const { query, add, remove } = useAttachments(take);
  const [shown, setShown] = useState<Attachment>();
  const [doomed, setDoomed] = useState<Attachment>();
  const input = useRef<HTMLInputElement>(null);
  const drop = useFileDrop((files) => add.mutate([...files]));
  const all = query.data?.attachments ?? [];
  const error = query.error ?? add.error ?? remove.error;
  return (
    <section aria-label="Attached" className={`mt-4 ${drop.look}`} {...drop.on}>
      <div className="mb-1 flex items-center gap-2">
        <h2 className="text-[13px] font-bold">Photos and presets</h2>
        <Button look="quiet" disabled={add.isPending} onClick={() => input.current?.click()}>
          <Plus size={14} /> {add.isPending ? "Taking it in …" : "Attach"}
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          aria-label="Files to attach"
          onChange={(event) => {
            add.mutate([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
      </div>
      {all.length === 0 && (
        <p className="text-[12.5px] text-ink-2">
          Photos of knobs (made smaller, without position or date) and preset files up to 4 MiB, dropped here
          or attached.
        </p>
      )}
      <ul className="flex flex-wrap gap-2">
        {all.map((each) => (
          <li key={each.id} className="w-[124px] rounded-md border border-line p-1">
            {each.kind === "photo" ? (
              <button type="button" className="block w-full" onClick={() => setShown(each)}>
                <img
                  src={address(each)}
                  alt={each.name}
                  loading="lazy"
                  className="h-[84px] w-full rounded object-cover"
                />
              </button>
            ) : (
              <a
                href={address(each)}
                download
                aria-label={`Save ${each.name}`}
                className="grid h-[84px] place-items-center rounded bg-faint"
              >
                <FileCog size={26} className="text-ink-2" />
              </a>
            )}
            <p className="truncate text-[12px]" title={each.name}>
              {each.name}
            </p>
            <p className="flex items-center text-[11.5px] text-ink-2">
              {sizeWords(each.size)}
              <Button
                look="quiet"
                className="ml-auto !px-1.5 !py-1"
                aria-label={`Delete ${each.name}`}
                onClick={() => setDoomed(each)}
              >
                <Trash2 size={13} />
              </Button>
            </p>
          </li>
        ))}
      </ul>
      {error && <Failed error={error} />}
      <Sheet open={shown !== undefined} onClose={() => setShown(undefined)} title={shown?.name ?? ""} wide>
        {shown && <img src={address(shown)} alt={shown.name} className="w-full rounded" />}
      </Sheet>
      <Confirm
        open={doomed !== undefined}
        title={`Delete ${doomed?.name ?? ""}?`}
        yes="Delete it"
        onClose={() => setDoomed(undefined)}
        onYes={() => doomed && remove.mutate(doomed.id)}
      >
        It leaves the log for good.
      </Confirm>
    </section>
  );
}
