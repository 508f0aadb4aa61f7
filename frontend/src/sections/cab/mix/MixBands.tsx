import type { Schemas } from "../../../api/client";
import { useSize } from "../../../parts/useSize";
import { fixed } from "../../../parts/table";

type Band = Schemas["MixBand"];

const LOW_DB = -60;
const TICKS = [0, -10, -20, -30, -40, -50, -60];
const ROOM = { left: 58, right: 12, top: 10, bottom: 24 };
const NAMED = new Set([50, 100, 200, 400, 800, 1600, 3150, 6300]);
const hz = (f: number) => (f >= 1000 ? `${f / 1000} kHz` : `${f} Hz`);

/** Guitar and backing in third octaves: what is heard of the guitar is filled, what is covered is hollow. */
export function MixBands({ bands }: { bands: Band[] }) {
  const size = useSize();
  const width = Math.max(0, size.width - ROOM.left - ROOM.right);
  const height = Math.max(0, size.height - ROOM.top - ROOM.bottom);
  const each = width / bands.length;
  const y = (db: number) => ROOM.top + (Math.min(0, Math.max(LOW_DB, db)) / LOW_DB) * height;
  const x = (i: number) => ROOM.left + i * each;
  const backing = bands.map((band, i) => `${i ? "L" : "M"}${x(i)} ${y(band.backing)}H${x(i + 1)}`).join("");
  return (
    <div ref={size.ref} className="h-full min-h-[120px] w-full">
      {width > 0 && height > 0 && (
        <svg width={size.width} height={size.height} aria-hidden className="block">
          {TICKS.map((db) => (
            <g key={db}>
              <path d={`M${ROOM.left} ${y(db)}H${size.width - ROOM.right}`} className="stroke-line" />
              <text x={ROOM.left - 6} y={y(db) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
                {fixed(db, 0)} dB
              </text>
            </g>
          ))}
          {bands.map((band, i) => (
            <rect
              key={band.hz}
              x={x(i) + each * 0.18}
              width={each * 0.64}
              y={y(band.guitar)}
              height={ROOM.top + height - y(band.guitar)}
              fill={band.heard ? "var(--deep)" : "var(--paper)"}
              stroke="var(--deep)"
              strokeWidth={1.4}
              strokeDasharray={band.heard ? undefined : "3 3"}
            >
              <title>
                {`${hz(band.hz)}: guitar ${fixed(band.guitar, 1)} dB, backing ${fixed(band.backing, 1)} dB, ${band.heard ? "heard" : "covered"}`}
              </title>
            </rect>
          ))}
          <path d={backing} fill="none" stroke="var(--ink)" strokeWidth={2} />
          {bands.map(
            (band, i) =>
              NAMED.has(band.hz) && (
                <text
                  key={band.hz}
                  x={x(i) + each / 2}
                  y={ROOM.top + height + 17}
                  textAnchor="middle"
                  className="fill-ink-2 text-[12px]"
                >
                  {hz(band.hz)}
                </text>
              ),
          )}
        </svg>
      )}
    </div>
  );
}
