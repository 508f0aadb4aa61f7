import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "../../api/client";
import { Mark } from "../../parts/Mark";
import { Failed, Loading } from "../../parts/states";

/** Cautions that were accepted, each with the word it was accepted with: on hook-ups as they stand, and at takes. */
export function Decisions({ query }: { query: string }) {
  const { data, error, refetch } = useQuery({
    queryKey: ["takes", "decisions"],
    queryFn: () => answer(api.GET("/api/log/decisions")),
  });
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!data) return <Loading what="what was decided" />;
  if (data.decisions.length === 0)
    return (
      <p className="px-4 py-3 text-ink-2">
        No caution was accepted. That is done on the run sheet, with a word that is kept.
      </p>
    );
  return (
    <ul>
      {data.decisions.map((each, i) => (
        <li
          key={i}
          className="grid grid-cols-[16px_1fr] gap-x-2 border-t border-line px-4 py-1.5 text-[13.5px]"
        >
          <span className="mt-0.5">
            <Mark severity="caution" size={14} />
          </span>
          <div>
            <p>
              {each.caution} <b>“{each.word}”</b>
            </p>
            <p className="text-[12.5px] text-ink-2">
              {each.take === null ? (
                <>
                  stands on{" "}
                  <Link className="text-deep underline" to={`/run/${each.hookup_id}`}>
                    {each.hookup}
                  </Link>
                </>
              ) : (
                <>
                  <Link className="text-deep underline" to={`/log/${each.take}${query}`}>
                    take {each.number}
                  </Link>
                  , {each.hookup},{" "}
                  {new Date(each.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
                </>
              )}
            </p>
          </div>
        </li>
      ))}
    </ul>
  );
}
