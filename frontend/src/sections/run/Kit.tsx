import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, FileText, Printer, X } from "lucide-react";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { Button, FIELD, TextInput } from "../../parts/controls";
import { tellOtherWindows } from "../../parts/elsewhere";
import { Failed, Loading } from "../../parts/states";
import { short } from "../../parts/table";
import { useHookups } from "../bench/HookupMenu";

type KitState = Schemas["KitState"];
type PackedItem = KitState["items"][number];

function useKit(hookups: string[]) {
  const client = useQueryClient();
  const key = ["kit", ...hookups];
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/kit", { params: { query: { hookups: hookups.join(",") } } })),
  });
  const shared = {
    scope: { id: key.join() },
    // What is on its way while another list is chosen belongs to the list it was wished for.
    mutationKey: key,
    onSuccess: (state: KitState) => {
      client.setQueryData(key, state);
      tellOtherWindows(["kit"]);
    },
    onError: () => void client.invalidateQueries({ queryKey: key, exact: true }),
  };
  const pack = useMutation({
    ...shared,
    onMutate: ({ item, packed }: { item: string; packed: boolean }) =>
      client.setQueryData<KitState>(
        key,
        (now) => now && { ...now, items: now.items.map((p) => (p.item.id === item ? { ...p, packed } : p)) },
      ),
    mutationFn: (body: { item: string; packed: boolean }) =>
      answer(api.POST("/api/kit/pack", { body: { hookups, ...body } })),
  });
  const settle = useMutation({
    ...shared,
    onMutate: ({ away }: { away: boolean; own: string[] }) =>
      client.setQueryData<KitState>(key, (now) => now && { ...now, away }),
    mutationFn: (body: { away: boolean; own: string[] }) =>
      answer(api.POST("/api/kit/settle", { body: { hookups, ...body } })),
  });
  return { query, state: query.data, pack, settle };
}

function Line({
  line,
  several,
  onPack,
  onRemove,
}: {
  line: PackedItem;
  several: boolean;
  onPack: (packed: boolean) => void;
  onRemove?: () => void;
}) {
  const { item, packed } = line;
  return (
    <li className="flex items-start gap-2.5 border-t border-line py-1.5 first:border-t-0">
      <button
        type="button"
        role="checkbox"
        aria-checked={packed}
        aria-label={`${item.text}: packed`}
        onClick={() => onPack(!packed)}
        className={`flex size-[28px] shrink-0 items-center justify-center rounded border-[1.5px] ${packed ? "border-ok bg-ok text-sheet" : "border-ink bg-sheet"}`}
      >
        {packed && <Check size={18} strokeWidth={3} />}
      </button>
      <span className={`min-w-0 flex-1 ${packed ? "text-ink-2" : ""}`}>
        <span className="text-[17px] font-semibold">{item.text}</span>
        {item.kg != null && <span className="ml-2 text-ink-2">{short(item.kg)} kg</span>}
        <span className="block text-[13px] text-ink-2">
          {[item.detail, several ? item.used_in.join(" · ") : ""].filter(Boolean).join(" — ")}
        </span>
      </span>
      {onRemove && (
        <Button look="quiet" className="!px-1" aria-label={`Remove ${item.text}`} onClick={onRemove}>
          <X size={15} />
        </Button>
      )}
    </li>
  );
}

/** What to lay out or carry for a hook-up, or for several, and tags for what looks alike. */
export function Kit({ id }: { id: string }) {
  const [params, setParams] = useSearchParams();
  const others = (params.get("with") ?? "").split(",").filter(Boolean);
  const ids = [id, ...others];
  const { query, state, pack, settle } = useKit(ids);
  const [away, setAway] = useState<boolean>();
  const hookups = useHookups();
  const [typed, setTyped] = useState("");
  const choose = (next: string[]) =>
    setParams(next.length ? { with: next.join(",") } : {}, { replace: true });
  if (query.error && !state) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!state) return <Loading what="the kit list" />;
  const own = state.items.filter((p) => p.item.group === "own").map((p) => p.item.text);
  const groups = [...new Map(state.items.map((p) => [p.item.group, p.group_name]))];
  const left = state.items.filter((p) => !p.packed).length;
  const free = hookups.data?.entries.filter((each) => !ids.includes(each.id)) ?? [];
  const asked = `hookups=${ids.join(",")}`;
  return (
    <div className="h-full overflow-y-auto bg-sheet print:overflow-visible">
      <div className="mx-auto max-w-[1040px] px-5 py-4">
        <div className="flex flex-wrap items-center gap-2">
          <h2 className="mr-auto text-[24px] font-bold">Kit list</h2>
          <span role="status" className="text-[17px] font-semibold">
            {left === 0 ? "All of it is packed" : `${left} of ${state.items.length} left`}
          </span>
          <span className="text-ink-2">
            {state.kg > 0 && `${short(state.kg)} kg`}
            {state.unweighed > 0 &&
              `${state.kg > 0 ? " and " : ""}${state.unweighed} unit${state.unweighed === 1 ? "" : "s"} nobody weighed`}
          </span>
          <span className="no-print flex items-center gap-1">
            <a
              className="inline-flex items-center rounded-[7px] px-2 py-1 text-ink-2 hover:bg-faint hover:text-ink"
              href={`/api/kit.md?${asked}`}
              aria-label="Markdown"
              title="Markdown"
            >
              <FileText size={17} />
            </a>
            <Button look="quiet" aria-label="Print" title="Print" onClick={() => window.print()}>
              <Printer size={17} />
            </Button>
            <Link
              to={`/run/${id}`}
              className="ml-1 inline-flex min-h-[24px] items-center text-deep underline"
            >
              back to the run sheet
            </Link>
          </span>
        </div>
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <span className="text-ink-2">For</span>
          {state.hookups.map((each) => (
            <span
              key={each.id}
              className={`flex items-center gap-1 rounded-md border border-line bg-paper py-0.5 pl-2 font-semibold ${each.id === id ? "pr-2" : "pr-1"}`}
            >
              {each.name}
              {each.id !== id && (
                <Button
                  look="quiet"
                  className="!px-1"
                  aria-label={`Leave out ${each.name}`}
                  onClick={() => choose(others.filter((o) => o !== each.id))}
                >
                  <X size={14} />
                </Button>
              )}
            </span>
          ))}
          <select
            aria-label="One more hook-up"
            className={`no-print !w-auto max-w-[220px] ${FIELD}`}
            value=""
            onChange={(event) => event.target.value && choose([...others, event.target.value])}
          >
            <option value="">one more hook-up …</option>
            {free.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
          <label className="no-print flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-[var(--deep)]"
              checked={away ?? state.away}
              onChange={(event) => {
                // It moves at once: what a query is told of is drawn a moment later.
                setAway(event.target.checked);
                settle.mutate({ away: event.target.checked, own }, { onSettled: () => setAway(undefined) });
              }}
            />
            It goes to another place
          </label>
        </div>
        {[pack.error, settle.error].map((each, i) => each && <Failed key={i} error={each} />)}
        <div className="mt-3 gap-8 md:columns-2">
          {groups.map(([group, name]) => (
            <section key={group} aria-label={name} className="mb-4 break-inside-avoid">
              <h3 className="text-[15px] font-bold">{name}</h3>
              <ul>
                {state.items
                  .filter((p) => p.item.group === group)
                  .map((p) => (
                    <Line
                      key={p.item.id}
                      line={p}
                      several={ids.length > 1}
                      onPack={(packed) => pack.mutate({ item: p.item.id, packed })}
                      onRemove={
                        group === "own"
                          ? () =>
                              settle.mutate({
                                away: state.away,
                                own: own.filter((text) => text !== p.item.text),
                              })
                          : undefined
                      }
                    />
                  ))}
              </ul>
            </section>
          ))}
          <form
            className="no-print flex gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (typed.trim())
                settle.mutate(
                  { away: state.away, own: [...own, typed.trim()] },
                  { onSuccess: () => setTyped("") },
                );
            }}
          >
            <TextInput
              aria-label="A line of your own"
              placeholder="A line of your own: an adapter, the green rug …"
              maxLength={120}
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
            />
            <Button type="submit" disabled={!typed.trim()}>
              Add
            </Button>
          </form>
        </div>
        {state.tags.length > 0 && (
          <section aria-label="Tags" className="mt-5 border-t border-line pt-3 print:break-before-page">
            <h3 className="text-[15px] font-bold">Tags, to print and hang on</h3>
            <ul className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(210px,1fr))] gap-2">
              {state.tags.map((tag) => (
                <li
                  key={`${tag.on}|${tag.says}|${tag.beneath}`}
                  className="break-inside-avoid rounded-md border-[1.5px] border-dashed border-ink-2 px-3 py-2"
                >
                  <span className="block text-[12px] text-ink-2">{tag.on}</span>
                  <span className="block text-[17px] leading-tight font-bold">{tag.says}</span>
                  <span className="block text-[12px]">{tag.beneath}</span>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </div>
  );
}
