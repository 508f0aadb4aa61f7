import { useEffect, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { currentHookup } from "../../parts/current";
import { Empty, Failed, Loading } from "../../parts/states";
import { useHookups } from "./HookupMenu";

/** Goes to the hook-up last worked on within a section, or says what to do where there is none. */
export function Choose({ at, none }: { at: string; none?: ReactNode }) {
  const hookups = useHookups();
  const go = useNavigate();
  // A list that is being read again may lack the hook-up that was just made.
  const entries = hookups.isFetching ? undefined : hookups.data?.entries;
  useEffect(() => {
    const last = entries?.find((e) => e.id === currentHookup.get()) ?? entries?.[0];
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
