import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Ellipsis } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, Refusal, type Session } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { Menu } from "../../parts/Menu";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { HandOver } from "./HandOver";
import { OpenSession } from "./OpenSession";
import { saveFile } from "../../parts/sharing/save";
import { useAbout } from "../../parts/sharing/useAbout";

/** What a session is called, and what is said of it. */
function Words({ session, onClose }: { session: Session; onClose: () => void }) {
  const [name, setName] = useState(session.name);
  const [notes, setNotes] = useState(session.notes);
  /** How it read when the form was opened, or when another window was found to have changed it. */
  const [was, setWas] = useState({ name: session.name, notes: session.notes });
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT("/api/sessions/{session_id}", {
          params: { path: { session_id: session.id } },
          body: { name, notes, was },
        }),
      ),
    onError: async (error) => {
      if (!(error instanceof Refusal && error.status === 409)) return;
      const now = await answer(api.GET("/api/sessions")).catch(() => undefined);
      const theirs = now?.sessions.find((each) => each.id === session.id);
      if (theirs) setWas({ name: theirs.name, notes: theirs.notes });
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["sessions"] });
      onClose();
    },
  });
  return (
    <Sheet open onClose={onClose} title="The session">
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Field label="Name" problem={name.trim() ? undefined : "It needs a name."}>
          <TextInput maxLength={120} value={name} onChange={(e) => setName(e.target.value)} />
        </Field>
        <Field label="Notes" hint="Who was there, what was wanted, how the place was.">
          <textarea
            rows={5}
            maxLength={8000}
            className={FIELD}
            value={notes}
            onChange={(e) => setNotes(e.target.value)}
          />
        </Field>
        {save.error && <Failed error={save.error} />}
        {save.error instanceof Refusal && save.error.status === 409 && (
          <p className="text-[13px] text-ink-2">Save once more to put yours in the place of theirs.</p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Discard changes</Button>
          <Button look="main" type="submit" disabled={!name.trim() || save.isPending}>
            Save
          </Button>
        </div>
      </form>
    </Sheet>
  );
}

/** What is done with a session as a whole. */
export function SessionMenu({
  session,
  onSession,
}: {
  /** The one that is looked at, or else the newest; missing in an empty log. */
  session?: Session;
  onSession: (id: number | undefined) => void;
}) {
  const [asking, setAsking] = useState<"words" | "open" | "hand" | "delete">();
  const client = useQueryClient();
  const go = useNavigate();
  const { isForAll } = useAbout();
  const done = () => setAsking(undefined);
  const remove = useMutation({
    mutationFn: ({ id, takes }: Session) =>
      answer(
        api.DELETE("/api/sessions/{session_id}", {
          params: { path: { session_id: id }, query: { takes } },
        }),
      ),
    onSuccess: () => onSession(undefined),
    onSettled: () =>
      void client.invalidateQueries({
        predicate: (q) =>
          ["takes", "take", "sessions", "lines", "hookup", "hookups", "capture"].includes(
            String(q.queryKey[0]),
          ),
      }),
  });
  const of = session ? `“${session.name}”` : "";
  const items = session
    ? [
        { label: `Name and notes of ${of} …`, key: "words", run: () => setAsking("words") },
        { label: "Session sheet, to print", key: "sheet", run: () => void go(`/log/sheet/${session.id}`) },
        {
          label: "Save it as one file",
          key: "save",
          run: () => void saveFile(`/api/sessions/${session.id}/file`),
        },
        { label: "A folder for whoever mixes …", key: "hand", run: () => setAsking("hand") },
        ...(isForAll ? [{ label: "Delete it …", key: "delete", run: () => setAsking("delete") }] : []),
      ]
    : [];
  return (
    <>
      <Menu
        trigger={
          <Button aria-label="More of the session" title="More of the session" className="!px-2">
            <Ellipsis size={16} />
          </Button>
        }
        items={[
          ...items,
          ...(isForAll
            ? [{ label: "Open a session file …", key: "open", run: () => setAsking("open") }]
            : []),
        ]}
      />
      {asking === "words" && session && <Words session={session} onClose={done} />}
      {asking === "hand" && session && <HandOver session={session} onClose={done} />}
      {asking === "open" && (
        <OpenSession
          onClose={done}
          onDone={(made) => {
            done();
            onSession(made.id);
          }}
        />
      )}
      <Confirm
        open={asking === "delete" && session !== undefined}
        title={`Delete ${of}?`}
        yes="Delete it"
        onClose={done}
        onYes={() => session && remove.mutate(session)}
      >
        {session?.takes === 1 ? "Its take" : `Its ${session?.takes} takes`}, their recordings, photos and
        notes go for good. Save it as one file first if it may be wanted again.
      </Confirm>
      {remove.error instanceof Refusal && <Failed error={remove.error} />}
    </>
  );
}
