import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { Link } from "react-router";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { short } from "../../parts/table";
import { fieldLink } from "../../parts/fieldLink";
import { saveFile } from "../../parts/sharing/save";

const HEAD = ["Unit", "Kind", "Serial number", "Price", "Weight", "Last service", "Flat out since"];
const PAPERS = "Price, weight and papers";

/** All that is owned with its papers, to be printed or saved for an insurer. */
export function ForInsurer() {
  const query = useQuery({
    queryKey: ["gear", "insurer"],
    queryFn: () => answer(api.GET("/api/locker/insurer")),
  });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="what you own" />;
  const { units, total, unpriced } = query.data;
  return (
    <section aria-label="List for an insurer" className="prints h-full overflow-auto px-5 py-4">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h2 className="text-[17px] font-bold">List for an insurer</h2>
        <p className="text-[13px] text-ink-2">
          {units.length} unit{units.length === 1 ? "" : "s"}, {total} in all
          {unpriced > 0 && `; ${unpriced} without a price yet`}
        </p>
        <span className="no-print ml-auto flex gap-1">
          <Button look="quiet" onClick={() => void saveFile("/api/locker/insurer.csv")}>
            Save as CSV
          </Button>
          <Button look="quiet" aria-label="Print" onClick={() => window.print()}>
            <Printer size={15} />
          </Button>
        </span>
      </div>
      <table className="w-full border-collapse text-[13px]">
        <thead className="text-left text-ink-2">
          <tr>
            {HEAD.map((name) => (
              <th key={name} className="pr-3 pb-1 font-medium">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {units.map(({ unit, name, kind, papers, weight, price }) => (
            <tr key={unit} className="border-t border-line [&>*]:py-0.5">
              <th scope="row" className="pr-3 text-left font-semibold">
                <Link
                  to={fieldLink(unit, PAPERS)}
                  className="inline-block min-h-[24px] leading-6 hover:underline"
                >
                  {name}
                </Link>
              </th>
              <td className="pr-3 text-ink-2">{kind}</td>
              <td className="pr-3">{papers.serial}</td>
              <td className="pr-3 whitespace-nowrap">{price}</td>
              <td className="pr-3 whitespace-nowrap">{weight == null ? "" : `${short(weight)} kg`}</td>
              <td className="pr-3">{papers.serviced}</td>
              <td className="whitespace-nowrap">
                {papers.flat_out_hours == null ? "" : `${short(papers.flat_out_hours)} h`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {units.length === 0 && <p className="mt-2 text-ink-2">Nothing is in the locker yet.</p>}
    </section>
  );
}
