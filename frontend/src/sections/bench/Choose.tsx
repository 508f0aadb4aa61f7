import { useEffect, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { currentHookup } from "../../parts/current";
import { Empty, Failed, Loading } from "../../parts/states";
import { isAtDesk } from "../../parts/sharing/save";
import { useHookups } from "./HookupMenu";

type HookupEntry = Schemas["HookupEntry"];

const newestFirst = (a: HookupEntry, b: HookupEntry) =>
  Number(b.is_on) - Number(a.is_on) || b.updated.localeCompare(a.updated);

/** Goes to the hook-up last worked on within a section, or says what to do where there is none. */
export function Choose({ at, none }: { at: string; none?: ReactNode }) {
  const hookups = useHookups();
  const go = useNavigate();
  // A list that is being read again may lack the hook-up that was just made.
  const entries = hookups.isFetching ? undefined : hookups.data?.entries;
  useEffect(() => {
    const last =
      entries?.find((e) => e.id === currentHookup.get()) ??
      // A device by the amp begins with what is on, or was worked on last at the desk.
      (isAtDesk ? undefined : entries?.toSorted(newestFirst)[0]) ??
      entries?.[0];
    if (last) void go(`/${at}/${last.id}`, { replace: true });
  }, [at, entries, go]);
  if (hookups.error) return <Failed error={hookups.error} retry={() => void hookups.refetch()} />;
  if (!entries || entries.length > 0) return <Loading what="your hook-ups" />;
  return (
    none ?? (
      <Empty title="No hook-up yet">
        <Link to="/bench" className="underline">
          Make one on the Bench first
        </Link>
      </Empty>
    )
  );
}
