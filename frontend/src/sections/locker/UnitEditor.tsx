import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useBlocker, useNavigate } from "react-router";
import { answer, api, Refusal, type KindInfo, type LockerEntry } from "../../api/client";
import { Button } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { Menu } from "../../parts/Menu";
import { Failed } from "../../parts/states";
import { Drawing } from "./Drawing";
import { GearForm } from "./GearForm";
import { freshDoc, typicalIn, type Doc, type Schema } from "./schema";

interface Props {
  kind: KindInfo;
  /** Missing for a unit that is being added. */
  entry?: LockerEntry;
}

type Ask = "delete" | null;

/** One unit's form: add or edit, duplicate, archive, delete. */
export function UnitEditor({ kind, entry }: Props) {
  const root = kind.form as Schema;
  const [doc, setDoc] = useState<Doc>(() =>
    entry
      ? (entry.doc as Doc)
      : { ...freshDoc(root, root), id: "", kind: kind.kind, typical: typicalIn(root, root) },
  );
  const [dirty, setDirty] = useState(false);
  const [ask, setAsk] = useState<Ask>(null);
  const [saved, setSaved] = useState(false);
  const client = useQueryClient();
  const go = useNavigate();
  const path = { params: { path: { gear_id: entry?.unit.id ?? "" } } };

  const settle = (next?: LockerEntry) => {
    setDirty(false);
    setSaved(true);
    void client.invalidateQueries({
      predicate: (q) => ["gear", "hookup", "hookups", "run", "choices"].includes(String(q.queryKey[0])),
    });
    if (next) client.setQueryData(["unit", next.unit.id], next);
  };
  const save = useMutation({
    mutationFn: (body: Doc) =>
      entry
        ? answer(api.PUT("/api/gear/{gear_id}", { ...path, body: { revision: entry.revision, unit: body } }))
        : answer(api.POST("/api/gear", { body: { ...body, id: null } })),
    onSuccess: (next) => {
      settle(next);
      if (entry) setDoc(next.doc as Doc);
    },
  });
  const duplicate = useMutation({
    mutationFn: () => answer(api.POST("/api/gear/{gear_id}/duplicate", path)),
    onSuccess: (next) => {
      settle(next);
      void go(`/locker/${next.unit.id}`);
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      answer(
        api.DELETE("/api/gear/{gear_id}", {
          params: { ...path.params, query: { revision: entry?.revision } },
        }),
      ),
    onSuccess: () => {
      settle();
      void go("/locker");
    },
  });
  const blocker = useBlocker(dirty);
  useEffect(() => {
    if (save.isSuccess && !entry && !dirty) void go(`/locker/${save.data.unit.id}`);
  }, [save.isSuccess, save.data, entry, dirty, go]);

  useEffect(() => {
    // The fields that were refused may be far up the form.
    if (save.isError) document.querySelector<HTMLElement>('form [aria-invalid="true"]')?.focus();
  }, [save.isError, save.failureCount]);

  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const problems = new Map<string, string>();
  refusal?.fields.forEach((field, i) => {
    problems.set(field.slice(1).join("."), refusal.problems[i] ?? "");
  });
  const unplaced = refusal && problems.size === 0 ? refusal : undefined;
  const archived = Boolean(doc.archived);
  const used = entry?.used_in ?? [];
  return (
    <form
      className="flex h-full min-h-0 flex-col"
      aria-label={entry ? `Edit ${entry.unit.name}` : `New ${kind.name.toLowerCase()}`}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(doc);
      }}
    >
      <div className="shrink-0 border-b border-line px-5 py-3">
        <p className="text-[12px] text-ink-2">
          {kind.name}
          {archived && ", archived"}
        </p>
        <h1 className="flex items-center gap-2 text-[19px] font-bold">
          <Drawing kind={kind.kind} /> {entry?.unit.name ?? `New ${kind.name.toLowerCase()}`}
        </h1>
        {entry && (
          <p className="text-[12.5px] text-ink-2">
            {used.length ? `Used in ${used.join(", ")}` : "Not in any hook-up now"}
          </p>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-5 py-4">
        <p className="mb-3 text-[12.5px] text-ink-2">
          The program judges by what stands here: a wrong rating is a wrong verdict. Take it from the maker’s
          manual or the back of the box.
        </p>
        {entry && entry.gaps.length > 0 && !dirty && (
          <section aria-label="What is missing" className="mb-4 rounded-md bg-shoal px-3 py-2 text-[13px]">
            <h2 className="font-semibold">What is missing, and what it does to the results</h2>
            <ul className="mt-1 list-disc pl-5">
              {entry.gaps.map((gap) => (
                <li key={gap}>{gap}</li>
              ))}
            </ul>
          </section>
        )}
        <GearForm
          root={root}
          doc={doc}
          problems={problems}
          onChange={(next) => {
            setDoc(next);
            setDirty(true);
            setSaved(false);
          }}
        />
      </div>
      <div className="shrink-0 border-t border-line bg-paper px-5 py-2.5">
        {unplaced && <Failed error={unplaced} />}
        {refusal && !unplaced && (
          <p role="alert" className="mb-2 text-stop">
            Not saved: {refusal.problems.join(" ")}
          </p>
        )}
        {(remove.error ?? duplicate.error) && <Failed error={remove.error ?? duplicate.error} />}
        <div className="flex flex-wrap items-center gap-2">
          <Button look="main" type="submit" disabled={save.isPending || (!dirty && Boolean(entry))}>
            {entry ? "Save changes" : `Add to the locker`}
          </Button>
          {saved && !dirty && <span role="status">Saved.</span>}
          {entry && (
            <span className="ml-auto flex gap-1">
              {["load", "cabinet", "reamp"].includes(kind.kind) && (
                <Menu
                  trigger={<Button look="quiet">Save its curve</Button>}
                  items={(["zma", "csv"] as const).map((to) => ({
                    label: `as ${to.toUpperCase()}`,
                    key: to,
                    run: () => window.location.assign(`/api/gear/${entry.unit.id}/curve?to=${to}`),
                  }))}
                />
              )}
              <Button look="quiet" onClick={() => duplicate.mutate()}>
                Duplicate
              </Button>
              <Button look="quiet" onClick={() => save.mutate({ ...doc, archived: !archived })}>
                {archived ? "Take out of the archive" : "Archive"}
              </Button>
              <Button look="quiet" onClick={() => setAsk("delete")}>
                Delete
              </Button>
            </span>
          )}
        </div>
      </div>
      <Confirm
        open={ask === "delete"}
        title={`Delete ${entry?.unit.name}?`}
        yes="Delete it"
        onClose={() => setAsk(null)}
        onYes={() => remove.mutate()}
      >
        It leaves the locker for good. Takes already logged keep their own copy of it. To put it aside
        instead, archive it.
      </Confirm>
      <Confirm
        open={blocker.state === "blocked"}
        title="Leave without saving?"
        yes="Leave, lose the changes"
        onClose={() => blocker.reset?.()}
        onYes={() => blocker.proceed?.()}
      >
        What you changed in this form has not been saved.
      </Confirm>
    </form>
  );
}
