import { Link } from "react-router";
import type { Take } from "../../api/client";
import { VerdictMark } from "../../parts/Mark";
import { level } from "./TakeDetail";

/** What is said of a take beside its name. */
function Said({ take }: { take: Take }) {
  const { rating, guide } = take.note;
  const chip = "rounded px-1 text-[11.5px]";
  return (
    <>
      {guide && <span className={`${chip} border border-line text-ink-2`}>guide</span>}{" "}
      {rating && (
        <span
          className={`${chip} ${rating === "keep" ? "bg-shoal font-semibold text-ink" : rating === "no" ? "text-ink-2 line-through" : "text-ink-2"}`}
        >
          {rating}
        </span>
      )}
    </>
  );
}

/** A page of takes, newest first. */
export function Takes({ list, current, query }: { list: Take[]; current?: string; query: string }) {
  return (
    <table className="w-full text-[13.5px]">
      <thead>
        <tr className="text-left text-[12px] text-ink-2">
          {["Take", "Part", "Hook-up", "Peak", "Loudness"].map((head, i) => (
            <th
              key={head}
              className={`px-3 py-1.5 font-medium ${i === 0 ? "pl-4" : i === 4 ? "pr-4" : ""} ${i > 2 ? "text-right" : ""} ${i > 0 && i !== 3 ? "max-sm:hidden" : ""}`}
            >
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {list.map((each) => (
          <tr
            key={each.id}
            className={`border-t border-line ${String(each.id) === current ? "bg-shoal" : "hover:bg-faint"}`}
          >
            <td className="py-1.5 pr-3 pl-4">
              <Link to={`/log/${each.id}${query}`} data-take className="font-semibold">
                {each.number}. {each.note.name}
              </Link>{" "}
              <Said take={each} />
            </td>
            <td className="px-3 text-ink-2 max-sm:hidden">{each.note.part}</td>
            <td className="px-3 max-sm:hidden">
              <span className="flex items-center gap-1.5">
                <VerdictMark severity={each.severity} size={14} /> {each.hookup}
              </span>
            </td>
            <td className="px-3 text-right whitespace-nowrap">
              {level(each.measures?.peak_dbfs ?? each.note.measured_peak, "dBFS")}
              {each.measures?.clipped_runs ? <span className="text-caution"> clipped</span> : null}
            </td>
            <td className="px-3 pr-4 text-right whitespace-nowrap max-sm:hidden">
              {each.measures ? level(each.measures.loudness_lufs, "LUFS") : "no audio"}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
