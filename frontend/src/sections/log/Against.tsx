import { useQuery } from "@tanstack/react-query";
import { ArrowLeftRight } from "lucide-react";
import { Link } from "react-router";
import { answer, api, type Take } from "../../api/client";
import { Button } from "../../parts/controls";
import { Empty, Failed, Loading } from "../../parts/states";

const named = (take: Take) => `${take.number}, ${take.note.name}`;

/** What differs between two takes, and nothing that does not. */
export function Against({
  take,
  other,
  onTurn,
  back,
}: {
  take: number;
  other: number;
  onTurn: () => void;
  back: string;
}) {
  const query = useQuery({
    queryKey: ["take-difference", take, other],
    queryFn: () =>
      answer(
        api.GET("/api/takes/{take_id}/difference/{other_id}", {
          params: { path: { take_id: take, other_id: other } },
        }),
      ),
  });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="both takes" />;
  const { one, other: second, differs, groups } = query.data;
  return (
    <article aria-label={`Take ${one.number} against take ${second.number}`} className="p-5">
      <p className="flex items-center gap-2">
        <Link to={back} className="inline-flex min-h-[24px] items-center text-deep underline">
          back to the take
        </Link>
        <Button look="quiet" className="ml-auto" onClick={onTurn}>
          <ArrowLeftRight size={15} /> Turn round
        </Button>
      </p>
      <h2 className="mt-2 text-[19px] font-bold">What differs</h2>
      {differs.length === 0 ? (
        <Empty title="Nothing differs">
          Hook-up, gear, settings, controls, levels and measures are the same in both.
        </Empty>
      ) : (
        <table className="mt-2 w-full table-fixed border-collapse text-[13.5px]">
          <thead>
            <tr className="text-left align-bottom">
              <td className="w-[27%]" />
              {[one, second].map((each) => (
                <th key={each.id} scope="col" className="px-2 py-1 font-bold">
                  {named(each)}
                </th>
              ))}
            </tr>
          </thead>
          {[...new Set(differs.map((d) => d.group))].map((group) => (
            <tbody key={group}>
              <tr>
                <th
                  scope="rowgroup"
                  colSpan={3}
                  className="border-t border-line pt-2 text-left text-[12.5px] text-ink-2"
                >
                  {groups[group]}
                </th>
              </tr>
              {differs
                .filter((d) => d.group === group)
                .map((d, i) => (
                  <tr key={i} className="border-t border-line align-top">
                    <th scope="row" className="py-1 pr-2 text-left font-normal break-words">
                      {d.what}
                    </th>
                    <td className="px-2 py-1 font-semibold break-words whitespace-pre-wrap">{d.one}</td>
                    <td className="bg-shoal px-2 py-1 font-semibold break-words whitespace-pre-wrap">
                      {d.other}
                    </td>
                  </tr>
                ))}
            </tbody>
          ))}
        </table>
      )}
    </article>
  );
}
