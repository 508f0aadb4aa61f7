import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { answer, api, OFFLINE, Refusal, type Schemas } from "../api/client";
import { bringIn } from "./bringIn";
import { Button } from "./controls";
import { Confirm } from "./Confirm";
import { currentHookup } from "./current";
import { readLines } from "./ndjson";
import { Part } from "./Part";
import { Sheet } from "./Sheet";
import { Failed, Loading } from "./states";

type Contents = Schemas["Contents"];
type KeptCopy = Schemas["KeptCopy"];
/** A backup that could be put in place: what it is called here, where the server has it, and what it holds. */
interface Chosen {
  called: string;
  from: Schemas["RestoreBody"];
  holds: Contents;
}

const COUNTED: [keyof Omit<Contents, "newest">, string, string][] = [
  ["hookups", "hook-up", "hook-ups"],
  ["gear", "unit of gear", "units of gear"],
  ["sessions", "session", "sessions"],
  ["takes", "take", "takes"],
  ["recordings", "recording", "recordings"],
];

const size = (bytes: number) =>
  bytes < 1e6
    ? `${(bytes / 1e3).toFixed(0)} kB`
    : bytes < 1e9
      ? `${(bytes / 1e6).toFixed(1)} MB`
      : `${(bytes / 1e9).toFixed(2)} GB`;

const when = (iso: string) =>
  new Date(iso).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

const why = (name: string) =>
  name.startsWith("backup-")
    ? "made by hand"
    : name.startsWith("before-restore-")
      ? "as it was before a restore"
      : "as it was before an update";

/** What is here now beside what a backup would put in its place. */
function Beside({ now, then }: { now?: Contents; then: Contents }) {
  return (
    <table className="my-2 w-full text-ink">
      <thead>
        <tr className="text-left text-[12px] text-ink-2">
          <th className="font-medium" scope="col">
            holds
          </th>
          <th className="text-right font-medium" scope="col">
            here now
          </th>
          <th className="text-right font-medium" scope="col">
            the backup
          </th>
        </tr>
      </thead>
      <tbody>
        {COUNTED.map(([key, , many]) => (
          <tr key={key} className="border-t border-line">
            <th scope="row" className="py-0.5 text-left font-normal">
              {many}
            </th>
            <td className="text-right">{now?.[key]}</td>
            <td className="text-right font-semibold">{then[key]}</td>
          </tr>
        ))}
        <tr className="border-t border-line">
          <th scope="row" className="py-0.5 text-left font-normal">
            last written
          </th>
          <td className="text-right">{now?.newest ? when(now.newest) : "never"}</td>
          <td className="text-right font-semibold">{then.newest ? when(then.newest) : "never"}</td>
        </tr>
      </tbody>
    </table>
  );
}

/** Everything at once: where it lies, copies of it, and one put in place of it. */
export default function YourData({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const query = useQuery({ queryKey: ["data"], queryFn: () => answer(api.GET("/api/data")) });
  const file = useRef<HTMLInputElement>(null);
  const stopped = useRef(false);
  const [part, setPart] = useState<number>();
  const [chosen, setChosen] = useState<Chosen>();
  const [doomed, setDoomed] = useState<KeptCopy>();
  const stale = () => void client.invalidateQueries({ queryKey: ["data"] });

  const make = useMutation({
    mutationFn: async () => {
      let kept: KeptCopy | undefined;
      setPart(0);
      await readLines<Schemas["CopyLine"]>("/api/backups", {}, new AbortController().signal, (line) => {
        if (typeof line.part === "number") setPart(line.part);
        if (line.kept) kept = line.kept;
      }).catch((error: unknown) => {
        throw error instanceof Refusal ? error : OFFLINE;
      });
      if (!kept) throw OFFLINE;
      return kept;
    },
    onSettled: () => {
      setPart(undefined);
      stale();
    },
    onSuccess: (kept) => window.location.assign(`/api/backups/${kept.name}`),
  });
  const look = useMutation({
    mutationFn: async (what: KeptCopy | File): Promise<Chosen> => {
      if (!(what instanceof File)) {
        const path = { params: { path: { name: what.name } } };
        const holds = await answer(api.GET("/api/backups/{name}/contents", path));
        return {
          called: `the copy of ${when(what.made)}`,
          from: { copy_name: what.name, upload: "" },
          holds,
        };
      }
      stopped.current = false;
      setPart(0);
      const upload = await bringIn(what, false, setPart, () => stopped.current);
      const path = { params: { path: { upload } } };
      const holds = await answer(api.GET("/api/uploads/{upload}/contents", path));
      return { called: `“${what.name}”`, from: { copy_name: "", upload }, holds };
    },
    onSuccess: setChosen,
    onSettled: () => setPart(undefined),
  });
  const restore = useMutation({
    mutationFn: (which: Chosen) => answer(api.POST("/api/restore", { body: which.from })),
    onSuccess: () => currentHookup.clear(),
    onError: stale,
  });
  const remove = useMutation({
    mutationFn: (copy: KeptCopy) =>
      answer(api.DELETE("/api/backups/{name}", { params: { path: { name: copy.name } } })),
    onSettled: stale,
  });

  const busy = make.isPending || look.isPending || restore.isPending;
  const error = make.error ?? look.error ?? restore.error ?? remove.error ?? query.error;
  const begin = (run: () => void) => {
    for (const each of [make, look, restore, remove]) each.reset();
    run();
  };
  if (restore.data) {
    const reload = () => window.location.assign("/bench");
    return (
      <Sheet open onClose={reload} title="The backup is in place">
        <p>
          {restore.data.kept
            ? `What was here before is kept as ${restore.data.kept}.`
            : "There was nothing here before that could be kept."}{" "}
          Other windows have to be loaded again.
        </p>
        <Button look="main" className="mt-4" autoFocus onClick={reload}>
          Go to the Bench
        </Button>
      </Sheet>
    );
  }
  return (
    <Sheet
      open
      wide
      onClose={() => {
        stopped.current = true;
        onClose();
      }}
      title="Your data"
      about="All of it lies in one folder on this machine and is sent nowhere. A copy on the same disk is lost with that disk: save one elsewhere."
    >
      {query.isLoading && <Loading what="what is here" />}
      {query.data && (
        <>
          <p>
            {COUNTED.map(([key, one, many]) => {
              const n = query.data.holds[key];
              return `${n} ${n === 1 ? one : many}`;
            }).join(", ")}
            ; {size(query.data.size)} in <span className="break-all">{query.data.folder}</span>
          </p>
          <div className="mt-3 flex flex-wrap gap-2">
            <Button look="main" disabled={busy} onClick={() => begin(() => make.mutate())}>
              Back up now
            </Button>
            <Button disabled={busy} onClick={() => file.current?.click()}>
              Restore from a file …
            </Button>
            <input
              ref={file}
              type="file"
              accept=".zip"
              aria-label="Backup to restore"
              className="hidden"
              onChange={(event) => {
                const picked = event.target.files?.[0];
                event.target.value = "";
                if (picked) begin(() => look.mutate(picked));
              }}
            />
          </div>
          <div className="mt-3 empty:hidden">
            {make.isPending && <Part what="Copying" part={part ?? 0} />}
            {look.isPending && part !== undefined && part < 1 && (
              <Part what="Bringing the file in" part={part} onStop={() => (stopped.current = true)} />
            )}
            {look.isPending && (part === undefined || part >= 1) && (
              <p role="status">Checking the backup …</p>
            )}
            {restore.isPending && (
              <p role="status">Putting it in place. What is here now is copied first …</p>
            )}
            {make.data && (
              <p role="status">
                A copy was made and is kept here too. If your browser did not save it,{" "}
                <a className="underline" href={`/api/backups/${make.data.name}`} download>
                  save it again
                </a>
                .
              </p>
            )}
            {error && <Failed error={error} />}
          </div>
          <h2 className="mt-4 mb-1 font-semibold">Copies kept here</h2>
          {query.data.copies.length === 0 ? (
            <p className="text-ink-2">
              None yet. One is made by itself before every restore and every update of the program.
            </p>
          ) : (
            <ul>
              {query.data.copies.map((copy) => (
                <li
                  key={copy.name}
                  className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-line py-1"
                >
                  <span className="min-w-0 flex-1">
                    {when(copy.made)}{" "}
                    <span className="text-ink-2">
                      {why(copy.name)}, {size(copy.size)}
                    </span>
                  </span>
                  <a
                    className="inline-flex items-center gap-2 rounded-[7px] border-[1.5px] border-ink px-2.5 py-1 text-[13px] font-semibold hover:bg-faint"
                    href={`/api/backups/${copy.name}`}
                    download
                  >
                    <Download size={14} /> Save
                  </a>
                  <Button disabled={busy} onClick={() => begin(() => look.mutate(copy))}>
                    Restore …
                  </Button>
                  <Button
                    look="quiet"
                    disabled={busy}
                    aria-label={`Delete the copy of ${when(copy.made)}`}
                    onClick={() => setDoomed(copy)}
                  >
                    <Trash2 size={14} />
                  </Button>
                </li>
              ))}
            </ul>
          )}
        </>
      )}
      {error && !query.data && <Failed error={error} retry={() => void query.refetch()} />}
      <Confirm
        open={chosen !== undefined}
        title={`Put ${chosen?.called ?? ""} in place of everything?`}
        yes="Put it in place"
        onClose={() => setChosen(undefined)}
        onYes={() => chosen && begin(() => restore.mutate(chosen))}
      >
        {chosen && <Beside now={query.data?.holds} then={chosen.holds} />}
        What is here now is kept as a copy first.
      </Confirm>
      <Confirm
        open={doomed !== undefined}
        title="Delete this copy?"
        yes="Delete it"
        onClose={() => setDoomed(undefined)}
        onYes={() => doomed && begin(() => remove.mutate(doomed))}
      >
        {doomed && `The copy of ${when(doomed.made)}, ${why(doomed.name)}, goes for good.`}
      </Confirm>
    </Sheet>
  );
}
