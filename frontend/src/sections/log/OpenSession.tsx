import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { answer, api, OFFLINE, Refusal, type Schemas, type Session } from "../../api/client";
import { bringIn } from "../../parts/bringIn";
import { Button } from "../../parts/controls";
import { readLines } from "../../parts/ndjson";
import { Part } from "../../parts/Part";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";

type Holds = Schemas["SessionContents"];

const many = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`;

function Told({ holds }: { holds: Holds }) {
  return (
    <>
      <p>
        <b>{holds.name}</b>, begun{" "}
        {new Date(holds.started).toLocaleDateString("en-GB", { dateStyle: "long" })}:{" "}
        {[
          many(holds.takes, "take"),
          `${many(holds.recordings, "recording")} (${(holds.bytes / 1e6).toFixed(1)} MB)`,
          many(holds.attachments, "photo or preset").replace("photo or presets", "photos or presets"),
          many(holds.lines, "note"),
        ].join(", ")}
        .
      </p>
      {holds.notes && <p className="whitespace-pre-wrap text-ink-2">{holds.notes}</p>}
      {holds.here && (
        <p className="font-semibold text-caution">
          A session of this name that began then is in the log already. It is left as it is; this one comes
          beside it.
        </p>
      )}
    </>
  );
}

/** A session file brought in, looked into, and put into the log. */
export function OpenSession({ onDone, onClose }: { onDone: (made: Session) => void; onClose: () => void }) {
  const file = useRef<HTMLInputElement>(null);
  const stopped = useRef(new AbortController());
  const [part, setPart] = useState<number>();
  const client = useQueryClient();
  const look = useMutation({
    mutationFn: async (what: File) => {
      stopped.current = new AbortController();
      setPart(0);
      const upload = await bringIn(what, false, setPart, () => stopped.current.signal.aborted);
      return { upload, holds: await answer(api.POST("/api/sessions/contents", { body: { upload } })) };
    },
    onSettled: () => setPart(undefined),
  });
  const open = useMutation({
    mutationFn: async (upload: string) => {
      let made: Session | undefined;
      setPart(0);
      const { signal } = stopped.current;
      await readLines<Schemas["SessionLine"]>("/api/sessions/open", { upload }, signal, (line) => {
        if (typeof line.part === "number") setPart(line.part);
        if (line.session) made = line.session as Session;
      }).catch((error: unknown) => {
        throw error instanceof Refusal ? error : OFFLINE;
      });
      if (!made) throw OFFLINE;
      return made;
    },
    onSuccess: (made) => {
      void client.invalidateQueries({
        predicate: (q) => ["takes", "sessions", "lines"].includes(String(q.queryKey[0])),
      });
      onDone(made);
    },
    onSettled: () => setPart(undefined),
  });
  const stop = () => {
    stopped.current.abort();
    onClose();
  };
  const chosen = look.data;
  const error = open.error ?? look.error;
  return (
    <Sheet
      open
      onClose={stop}
      title="Open a session file"
      about="It comes into the log beside what is there, as it was where it was saved. Nothing that is here is changed."
    >
      <div className="mt-3 grid gap-3">
        <input
          ref={file}
          type="file"
          accept=".zip"
          aria-label="Session file"
          disabled={look.isPending || open.isPending}
          className="text-[13px] file:mr-2 file:rounded-md file:border file:border-line file:bg-paper file:px-2 file:py-1"
          onChange={(event) => {
            const picked = event.target.files?.[0];
            open.reset();
            if (picked) look.mutate(picked);
          }}
        />
        {look.isPending && <Part what="Bringing the file in" part={part ?? 1} onStop={stop} />}
        {chosen && !open.isPending && <Told holds={chosen.holds} />}
        {open.isPending && <Part what="Measuring its recordings" part={part ?? 0} onStop={stop} />}
        {error && <Failed error={error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={stop}>Leave it</Button>
          <Button
            look="main"
            disabled={!chosen || look.isPending || open.isPending || open.isError}
            onClick={() => chosen && open.mutate(chosen.upload)}
          >
            Put it into the log
          </Button>
        </div>
      </div>
    </Sheet>
  );
}
