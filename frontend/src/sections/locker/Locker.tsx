import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useDeferredValue, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { answer, api, type KindInfo, type LockerEntry } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { LongList } from "../../parts/LongList";
import { Empty, Failed, Loading } from "../../parts/states";
import { FirstSteps } from "../first/FirstSteps";
import { Drawing } from "./Drawing";
import { useGear } from "./gear";
import { useKinds } from "./kinds";
import { ForInsurer } from "./ForInsurer";
import { PairsTable } from "./PairsTable";
import { Transfer } from "./Transfer";
import { UnitEditor } from "./UnitEditor";

function AddMenu({
  kinds,
  trigger,
}: {
  kinds: KindInfo[];
  trigger: React.RefObject<HTMLButtonElement | null>;
}) {
  const go = useNavigate();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look="main" ref={trigger} disabled={kinds.length === 0}>
          <Plus size={15} /> Add
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-40 min-w-[190px] rounded-lg border border-line bg-sheet p-1 shadow-lg"
        >
          {kinds.map(({ kind, name }) => (
            <DropdownMenu.Item
              key={kind}
              className="cursor-pointer rounded px-2.5 py-1.5 outline-none data-[highlighted]:bg-shoal"
              onSelect={() => void go(`/locker/new?kind=${kind}`)}
            >
              {name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Detail({ id, kinds }: { id: string; kinds: KindInfo[] }) {
  const [search] = useSearchParams();
  const query = useQuery({
    queryKey: ["unit", id],
    queryFn: () => answer(api.GET("/api/gear/{gear_id}", { params: { path: { gear_id: id } } })),
    enabled: id !== "new",
  });
  if (id === "new") {
    const kind = kinds.find((k) => k.kind === search.get("kind"));
    return kind ? <UnitEditor key={`new-${kind.kind}`} kind={kind} /> : <Empty title="Choose what to add" />;
  }
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  const kind = kinds.find((k) => k.kind === query.data?.unit.kind);
  if (!query.data || !kind) return <Loading what="the unit" />;
  return <UnitEditor key={id} kind={kind} entry={query.data} />;
}

/** Into view once it is the one that is open. */
const reveal = (row: HTMLAnchorElement | null) => row?.scrollIntoView({ block: "nearest" });

function Row({ entry: { unit, summary, used_in, gaps }, open }: { entry: LockerEntry; open: boolean }) {
  return (
    <Link
      to={`/locker/${unit.id}`}
      ref={open ? reveal : undefined}
      aria-current={open ? "page" : undefined}
      className={`block px-4 py-1.5 focus-visible:-outline-offset-2 ${open ? "bg-shoal" : "hover:bg-faint"}`}
    >
      <span className="font-semibold">{unit.name}</span>
      {gaps.length > 0 && (
        <span className="ml-2 text-[12px] text-ink-2">
          {gaps.length} gap{gaps.length === 1 ? "" : "s"}
        </span>
      )}
      <span className="flex justify-between gap-2 text-[12px] text-ink-2">
        {summary}
        {used_in.length > 0 && <span className="shrink-0">in {used_in.length}</span>}
      </span>
    </Link>
  );
}

export default function Locker() {
  const { gearId } = useParams();
  const kinds = useKinds();
  const [words, setWords] = useState("");
  const [asked] = useSearchParams();
  const [kind, setKind] = useState(asked.get("kind") ?? "");
  const [archived, setArchived] = useState(false);
  const gear = useGear(useDeferredValue(words), kind, archived);
  /** The table beside the list has all amps and boxes, however the list is narrowed. */
  const everything = useGear("", "", false);
  const add = useRef<HTMLButtonElement>(null);
  useKeys({ a: () => add.current?.click() });
  const entries = gear.data?.entries ?? [];
  /** Kinds and their units, one after the other. */
  const rows = kinds.flatMap(({ kind: id }) => {
    const some = entries.filter((e) => e.unit.kind === id);
    return some.length === 0 ? [] : [id, ...some];
  });
  const narrowed = words !== "" || kind !== "" || archived;
  return (
    <div className="flex h-full min-h-0 flex-col md:flex-row short:block short:overflow-y-auto">
      <section
        aria-label="Gear"
        className={`no-print flex max-h-[40vh] min-h-0 shrink-0 flex-col border-r border-line md:max-h-none ${gearId ? "max-md:hidden md:w-[264px]" : "md:w-[340px] short:max-h-none"}`}
      >
        <div className="shrink-0 border-b border-line p-3">
          <div className={`flex gap-2 ${gearId ? "flex-wrap" : ""}`}>
            <TextInput
              className={gearId ? "basis-full" : ""}
              aria-label="Search the locker"
              placeholder="Search names and notes …"
              value={words}
              onChange={(e) => setWords(e.target.value)}
            />
            <AddMenu kinds={kinds} trigger={add} />
            <Transfer kinds={kinds} />
          </div>
          <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-[13px]">
            <select
              aria-label="Kind"
              className="rounded-md border border-line bg-sheet px-1.5 py-0.5"
              value={kind}
              onChange={(event) => setKind(event.target.value)}
            >
              <option value="">every kind</option>
              {kinds.map((k) => (
                <option key={k.kind} value={k.kind}>
                  {k.plural}
                </option>
              ))}
            </select>
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-[var(--deep)]"
                checked={archived}
                onChange={(e) => setArchived(e.target.checked)}
              />
              archived
            </label>
            <span className="ml-auto text-ink-2">
              {entries.length} unit{entries.length === 1 ? "" : "s"}
            </span>
          </div>
        </div>
        <LongList
          className="min-h-0 flex-1 overflow-y-auto pb-4"
          count={rows.length}
          height={(index) => (typeof rows[index] === "string" ? 34 : 50)}
          row={(index) => {
            const row = rows[index]!;
            return typeof row === "string" ? (
              <h2 className="flex items-center gap-2 px-4 pt-3 pb-1 text-[12px] font-semibold text-ink-2">
                <Drawing kind={row} size={20} /> {kinds.find((k) => k.kind === row)?.plural}
              </h2>
            ) : (
              <Row entry={row} open={row.unit.id === gearId} />
            );
          }}
        >
          {gear.isLoading && <Loading what="the locker" />}
          {gear.error && <Failed error={gear.error} retry={() => void gear.refetch()} />}
          {gear.data && entries.length === 0 && (
            <Empty title={narrowed ? "Nothing like that here" : "The locker is empty"}>
              {narrowed
                ? "Try fewer words, or another kind."
                : "Begin with typical units on the right, or press Add."}
            </Empty>
          )}
        </LongList>
      </section>
      <section aria-label="Unit" className="min-h-0 flex-1 bg-sheet">
        {gearId && kinds.length > 0 ? (
          <Detail id={gearId} kinds={kinds} />
        ) : everything.data?.entries.length === 0 && !archived ? (
          <FirstSteps />
        ) : asked.get("list") === "insurer" ? (
          <ForInsurer />
        ) : (
          <PairsTable entries={everything.data?.entries ?? []} />
        )}
      </section>
    </div>
  );
}
