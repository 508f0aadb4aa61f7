import { Link } from "react-router";
import { Button } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { useNarrowing } from "./useLog";

/** Guides that no take has replaced yet: a list that is to become empty. */
export function Guides({ query, onReplace }: { query: string; onReplace: (guide: number) => void }) {
  const { data, error, refetch } = useNarrowing();
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!data) return <Loading what="guides" />;
  if (data.open_guides.length === 0)
    return (
      <p className="px-4 py-3 text-ink-2">
        No guide waits to be replaced. A take is marked as a guide in its form; it stays here until another
        take is said to take its place.
      </p>
    );
  return (
    <ul>
      {data.open_guides.map((guide) => (
        <li
          key={guide.id}
          className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-line px-4 py-1.5"
        >
          <Link to={`/log/${guide.id}${query}`} data-take className="font-semibold">
            {guide.number}. {guide.note.name}
          </Link>
          <span className="text-ink-2">{guide.note.part || "no part"}</span>
          <span className="text-ink-2">{guide.hookup}</span>
          <Button className="ml-auto" onClick={() => onReplace(guide.id)}>
            Log what replaces it
          </Button>
        </li>
      ))}
    </ul>
  );
}
