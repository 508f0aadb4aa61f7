import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useBlocker, useNavigate, useSearchParams } from "react-router";
import { answer, api, Refusal, type KindInfo, type LockerEntry } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { useKeys } from "../../parts/keys";
import { Menu } from "../../parts/Menu";
import { Failed } from "../../parts/states";
import { Begin } from "./Begin";
import { BackPicture, samePart, type Part } from "./BackPicture";
import { Drawing } from "./Drawing";
import { Effects } from "./Effects";
import { fieldNames, GearForm } from "./GearForm";
import { Suspect } from "./Suspect";
import { PartPanel } from "./PartPanel";
import { freshDoc, neededIn, typicalIn, type Doc, type Schema } from "./schema";
import { useBack, useEffects } from "./useDraft";
import { saveFile } from "../../parts/sharing/save";
import { Steady } from "../../parts/Steady";

interface Props {
  kind: KindInfo;
  /** Missing for a unit that is being added. */
  entry?: LockerEntry;
}

type Ask = "delete" | null;

/** Puts the focus on the field with a label, unfolding what it is folded into. */
function goToField(label: string) {
  const labels = [...document.querySelectorAll<HTMLElement>("form label, form legend, form summary, form p")];
  const found = labels.find((each) => each.textContent?.trim().startsWith(label));
  if (!found) return;
  for (let at: Element | null = found; at; at = at.parentElement)
    if (at instanceof HTMLDetailsElement) at.open = true;
  const id = found.getAttribute("for");
  const field = id
    ? document.getElementById(id)
    : found.parentElement?.querySelector<HTMLElement>("input, select");
  field?.focus();
  field?.scrollIntoView({ block: "center" });
}

/** The fields that stand first: those that are needed, but one that is being edited stays where it is. */
function usePlaced(needed: string[], doc: Doc, base: Doc): string[] {
  const [placed, setPlaced] = useState(needed);
  const edited = (name: string) => JSON.stringify(doc[name]) !== JSON.stringify(base[name]);
  const first = [
    ...needed.filter((name) => !edited(name) || placed.includes(name)),
    ...placed.filter((name) => edited(name) && !needed.includes(name)),
  ];
  if (first.join() !== placed.join()) setPlaced(first);
  return first;
}

/** One unit's form: add or edit, duplicate, archive, delete. */
export function UnitEditor({ kind, entry }: Props) {
  const root = kind.form as Schema;
  const [doc, setDoc] = useState<Doc>(() =>
    entry
      ? (entry.doc as Doc)
      : { ...freshDoc(root, root), id: "", kind: kind.kind, typical: typicalIn(root, root) },
  );
  /** The record the edit began with. */
  const [base, setBase] = useState(doc);
  const [dirty, setDirty] = useState(false);
  /** What it is saved over: what others saved since is not, and is not written over unseen. */
  const [over, setOver] = useState(entry?.revision);
  if (entry && entry.revision !== over && !dirty) {
    setOver(entry.revision);
    setDoc(entry.doc as Doc);
    setBase(entry.doc as Doc);
  }
  const [ask, setAsk] = useState<Ask>(null);
  const [saved, setSaved] = useState(false);
  /** What is selected in the picture. */
  const [part, setPart] = useState<Part>();
  const back = useBack(doc).data;
  const effects = useEffects(entry?.unit.id, doc, dirty);
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
        ? answer(
            api.PUT("/api/gear/{gear_id}", {
              ...path,
              body: { revision: over ?? entry.revision, unit: body },
            }),
          )
        : answer(api.POST("/api/gear", { body: { ...body, id: null } })),
    onSuccess: (next) => {
      settle(next);
      if (entry) setDoc(next.doc as Doc);
      setBase(next.doc as Doc);
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
          params: { ...path.params, query: { revision: over } },
        }),
      ),
    onSuccess: () => {
      settle();
      void go("/locker");
    },
  });
  const blocker = useBlocker(dirty);
  const [query] = useSearchParams();
  const cameFrom = query.get("back") ?? "";
  const way = cameFrom.startsWith("/bench/") ? cameFrom : undefined;
  useKeys({ Escape: () => way && void go(way) });
  const asked = query.get("field");
  const ready = back !== undefined;
  useEffect(() => {
    if (asked && ready) goToField(asked);
  }, [asked, ready]);
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
  const shared = {
    root,
    doc,
    problems,
    onChange: (next: Doc) => {
      setDoc(next);
      setDirty(true);
      setSaved(false);
    },
  };
  const needs = back?.needs;
  const typical = Array.isArray(doc.typical) ? doc.typical : [];
  // Until the server has said what is needed of this very unit, what is needed of its kind: nothing jumps.
  const first = usePlaced(["name", ...(needs?.map((need) => need.field) ?? neededIn(root))], doc, base);
  const rest = fieldNames(root).filter((name) => !first.includes(name));
  /** A field that was refused must not stay folded away. */
  const refused = rest.some((name) => [...problems.keys()].some((at) => at.split(".")[0] === name));
  const drawn = back !== undefined && back.jacks.length > 0;
  const shownPart = drawn ? part : undefined;
  return (
    <form
      className="flex h-full min-h-0 flex-col short:h-auto"
      aria-label={entry ? `Edit ${entry.unit.name}` : `New ${kind.name.toLowerCase()}`}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(doc);
      }}
    >
      <div className="flex shrink-0 flex-wrap items-center gap-x-3 border-b border-line px-5 py-2.5">
        <h2 className="flex items-center gap-2 text-[19px] font-bold">
          <Drawing kind={kind.kind} /> {entry?.unit.name ?? `New ${kind.name.toLowerCase()}`}
        </h2>
        <Link to="/locker" className="min-h-[24px] text-[13px] text-deep underline md:hidden">
          All units
        </Link>
        <p className="text-[12.5px] text-ink-2">
          {entry ? entry.summary : kind.name}
          {archived && ", archived"}
          {entry && (
            <span title={used.join(", ")}>
              {used.length
                ? ` · in ${used.length} hook-up${used.length === 1 ? "" : "s"}`
                : " · in no hook-up now"}
            </span>
          )}
        </p>
      </div>
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto lg:flex-row lg:overflow-hidden short:overflow-visible">
        <div className="min-w-0 flex-1 px-5 py-3 lg:overflow-y-auto">
          {entry && kind.placeable && <Suspect unit={entry.unit.id} name={entry.unit.name} />}
          {!entry && (
            <Begin
              kind={kind.kind}
              onChoose={(start) => {
                setDoc({ ...start, id: "" });
                setBase({ ...start, id: "" });
                setDirty(true);
              }}
            />
          )}
          <Steady on={dirty}>
            {!back && kind.placeable && (
              <div aria-hidden className="h-[236px] rounded-[10px] border-2 border-line bg-sheet" />
            )}
            {drawn && (
              <BackPicture
                back={back}
                chosen={part}
                onChoose={(next) => setPart(samePart(part, next) ? undefined : next)}
              />
            )}
          </Steady>
          {first.length > 1 ? (
            <>
              <h2 className="mt-4 mb-2 flex items-baseline justify-between text-[14px] font-bold">
                Needed for a verdict
                <span className="text-[13px] font-normal text-ink-2">
                  {typical.length > 0 && (
                    <button
                      type="button"
                      className="mr-3 min-h-[24px] text-deep underline"
                      title={`typical now: ${typical.join(", ")}`}
                      onClick={() => shared.onChange({ ...doc, typical: [] })}
                    >
                      every figure here is as on mine
                    </button>
                  )}
                  {needs && `${needs.filter((need) => need.known).length} of ${needs.length} known`}
                </span>
              </h2>
              <GearForm {...shared} only={first} />
              <details className="mt-4" open={refused || undefined}>
                <summary className="cursor-pointer text-[14px] font-bold">
                  More{" "}
                  <span className="text-[13px] font-normal text-ink-2">
                    {rest.length} fields, none needed
                  </span>
                </summary>
                <div className="mt-2">
                  <GearForm {...shared} only={rest} />
                </div>
              </details>
            </>
          ) : (
            <div className="mt-3">
              <GearForm {...shared} />
            </div>
          )}
          <p className="mt-4 text-[12.5px] text-ink-2">
            The program judges by what stands here: a wrong rating is a wrong verdict. Take it from the
            maker’s manual or the back of the box.
          </p>
        </div>
        <aside className="flex shrink-0 flex-col border-line bg-sheet lg:w-[300px] lg:overflow-y-auto lg:border-l xl:w-[324px]">
          {shownPart && back && <PartPanel back={back} part={shownPart} shared={shared} />}
          {drawn && !shownPart && (
            <p className="px-4 py-3 text-[13px] text-ink-2">
              Press a socket, a control or the inside: what it does, and the fields that say so, stand here.
            </p>
          )}
          {entry && <Effects query={effects} used={used.length} dirty={dirty} />}
          {entry && entry.gaps.length > 0 && !dirty && (
            <section aria-label="What is missing" className="border-t border-line px-4 py-3 text-[13px]">
              <h2 className="font-bold">What is missing, and what it does to the results</h2>
              <ul className="mt-1 list-disc pl-5 text-ink-2">
                {entry.gaps.map((gap) => (
                  <li key={gap}>{gap}</li>
                ))}
              </ul>
            </section>
          )}
        </aside>
      </div>
      <div className="sticky bottom-0 shrink-0 border-t border-line bg-paper px-5 py-2">
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
          {dirty && entry && (
            <Button
              look="quiet"
              onClick={() => {
                setDoc(entry.doc as Doc);
                setDirty(false);
              }}
            >
              Discard changes
            </Button>
          )}
          {saved && !dirty && <span role="status">Saved.</span>}
          {way && (
            <Button onClick={() => void go(way)}>
              Back to the Bench <Key>Esc</Key>
            </Button>
          )}
          {entry && (
            <span className="ml-auto flex gap-1">
              {["load", "cabinet", "reamp"].includes(kind.kind) && (
                <Menu
                  trigger={<Button look="quiet">Save its curve</Button>}
                  items={(["zma", "csv"] as const).map((to) => ({
                    label: `as ${to.toUpperCase()}`,
                    key: to,
                    run: () => void saveFile(`/api/gear/${entry.unit.id}/curve?to=${to}`),
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
        yes="Discard changes"
        no="Stay here"
        onClose={() => blocker.reset?.()}
        onYes={() => blocker.proceed?.()}
      >
        What you changed in this form has not been saved.
      </Confirm>
    </form>
  );
}
