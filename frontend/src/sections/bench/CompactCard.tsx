import { INK, VerdictMark } from "../../parts/Mark";
import { ohms, short } from "../../parts/table";
import type { Schemas, UnitView } from "../../api/client";

interface Props {
  unit: UnitView;
  share?: Schemas["Share"];
  sees?: Schemas["AmpResult"];
  severity: string;
  lit: boolean;
  width: number;
  onFocus: () => void;
}

const BORDER: Record<string, string> = { stop: "border-stop", caution: "border-caution" };

/** What matters most of a unit, in a few words. */
function gist({ unit, share, sees }: Pick<Props, "unit" | "share" | "sees">): string {
  if (sees) return sees.sees === null ? "no load" : `sees ${ohms(sees.sees)}`;
  if (share) return `${short(share.flat)} of ${share.rating ? short(share.rating) : "?"} W`;
  return unit.kind.replaceAll("_", " ");
}

/** A unit in the overview: its name, its worst mark, one number; a press goes to it. */
export function CompactCard({ unit, share, sees, severity, lit, width, onFocus }: Props) {
  return (
    <button
      type="button"
      data-unit={unit.id}
      data-size="small"
      style={{ width }}
      onClick={onFocus}
      title={`${unit.name}: go to it`}
      className={`relative rounded-md border-[1.5px] bg-sheet px-1.5 py-1 text-left hover:bg-shoal ${BORDER[severity] ?? "border-ink"} ${lit ? "ring-4 ring-water/70" : ""}`}
    >
      {unit.sockets
        .filter((s) => s.lead || s.socket.level === "air")
        .map(({ socket }, _, all) => {
          const beside = all.filter((s) => s.socket.flow === socket.flow);
          const place = beside.findIndex((s) => s.socket.id === socket.id);
          return (
            <span
              key={socket.id}
              data-ring={`${unit.id}/${socket.id}`}
              style={{ top: `${(100 * (place + 1)) / (beside.length + 1)}%` }}
              className={`absolute size-0 ${socket.flow === "in" ? "-left-px" : "-right-px"}`}
            />
          );
        })}
      <b className="line-clamp-2 text-[12.5px] leading-tight wrap-anywhere">{unit.name}</b>{" "}
      <span
        className={`flex items-center gap-1 text-[11.5px] ${sees && severity === "stop" ? INK.stop : "text-ink-2"}`}
      >
        {(severity === "stop" || severity === "caution") && <VerdictMark severity={severity} size={12} />}
        <span className="truncate">{gist({ unit, share, sees })}</span>
      </span>
    </button>
  );
}
