import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ArrowDownUp } from "lucide-react";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { sendFile, type KindInfo, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Menu } from "../../parts/Menu";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { saveFile } from "../../parts/sharing/save";

const list = (names: string[]) =>
  names.length > 8 ? `${names.slice(0, 8).join(", ")} and ${names.length - 8} more` : names.join(", ");

/** Taking the whole locker out as a file, and files in. */
export function Transfer({ kinds }: { kinds: KindInfo[] }) {
  const [open, setOpen] = useState(false);
  const [replace, setReplace] = useState(false);
  const [chosen, setChosen] = useState<File>();
  const file = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const go = useNavigate();
  const bring = useMutation({
    mutationFn: (from: File) =>
      sendFile<Schemas["Imported"]>(`/api/locker/import?replace=${String(replace)}`, from),
    onSuccess: () =>
      client.invalidateQueries({
        predicate: (q) =>
          ["gear", "unit", "hookup", "hookups", "run", "choices"].includes(String(q.queryKey[0])),
      }),
  });
  const done = bring.data;
  return (
    <>
      <Menu
        trigger={
          <Button look="plain" aria-label="Import and export" className="!px-2">
            <ArrowDownUp size={15} />
          </Button>
        }
        items={[
          { label: "Read a locker file …", run: () => setOpen(true) },
          { label: "List for an insurer", run: () => void go("/locker?list=insurer") },
          { label: "Save all as JSON", run: () => void saveFile("/api/locker.json") },
          ...kinds.map(({ kind, plural }) => ({
            key: kind,
            label: `Save ${plural.toLowerCase()} as CSV`,
            run: () => void saveFile(`/api/locker.csv?kind=${kind}`),
          })),
        ]}
      />
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Read a locker file"
        about="JSON or CSV as this program writes them. All of it is taken in, or nothing."
      >
        <div className="grid gap-3">
          <div className="flex items-center gap-3">
            <Button onClick={() => file.current?.click()}>Choose a file …</Button>
            <span className="truncate text-ink-2">{chosen?.name ?? "none chosen"}</span>
            <input
              ref={file}
              type="file"
              accept=".json,.csv"
              aria-label="Locker file"
              className="hidden"
              onChange={(event) => {
                setChosen(event.target.files?.[0]);
                bring.reset();
              }}
            />
          </div>
          <fieldset className="grid gap-1">
            <legend className="font-medium">A unit that is here already</legend>
            {[
              { value: false, label: "stays as it is" },
              { value: true, label: "is replaced by the one in the file" },
            ].map((each) => (
              <label key={each.label} className="flex items-center gap-2">
                <input
                  type="radio"
                  name="replace"
                  className="accent-[var(--deep)]"
                  checked={replace === each.value}
                  onChange={() => setReplace(each.value)}
                />
                {each.label}
              </label>
            ))}
          </fieldset>
          {bring.error && <Failed error={bring.error} />}
          {done && (
            <div role="status">
              <p>
                <b>{done.added.length} added</b>
                {done.added.length > 0 && `: ${list(done.added)}`}
              </p>
              <p>
                <b>{done.replaced.length} replaced</b>
                {done.replaced.length > 0 && `: ${list(done.replaced)}`}
              </p>
              <p>
                <b>{done.kept.length} left as they were</b>
              </p>
            </div>
          )}
          <div>
            <Button
              look="main"
              disabled={!chosen || bring.isPending}
              onClick={() => chosen && bring.mutate(chosen)}
            >
              {bring.isPending ? "Reading …" : "Take it in"}
            </Button>
          </div>
        </div>
      </Sheet>
    </>
  );
}
