import { useState } from "react";
import { useSize } from "../../parts/useSize";

interface Point {
  at: string;
  value: number;
  low?: number;
  high?: number;
  words: string;
}

interface Props {
  name: string;
  points: Point[];
  top: number;
  unit: string;
}

const LEFT = 40;
const BELOW = 22;
const ABOVE = 10;
/** In px: a date under every point that has so much room. */
const DATE = 76;

/** Values one after the other with the interval they lie in; arrows go from one to the next and say it. */
export function Course({ name, points, top, unit }: Props) {
  const { ref, width, height } = useSize();
  const [at, setAt] = useState<number>();
  const x = (n: number) => LEFT + ((n + 0.5) * (width - LEFT)) / Math.max(1, points.length);
  const y = (value: number) => ABOVE + (1 - value / top) * (height - ABOVE - BELOW);
  const every = Math.max(1, Math.ceil((points.length * DATE) / Math.max(1, width - LEFT)));
  const here = at === undefined ? undefined : points[at];
  const nearest = (px: number) =>
    Math.min(
      points.length - 1,
      Math.max(0, Math.floor(((px - LEFT) * points.length) / Math.max(1, width - LEFT))),
    );
  return (
    <div ref={ref} className="absolute inset-x-5 inset-y-0">
      {}
      <svg
        width={width}
        height={height}
        role="img"

        tabIndex={0}
        aria-label={`${name}${here ? `: ${here.at}, ${here.words}` : ""}`}
        onMouseMove={(event) =>
          setAt(nearest(event.clientX - event.currentTarget.getBoundingClientRect().left))
        }
        onMouseLeave={() => setAt(undefined)}
        onBlur={() => setAt(undefined)}
        onKeyDown={(event) => {
          const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
          if (!by) return;
          event.preventDefault();
          setAt((now) =>
            Math.min(
              points.length - 1,
              Math.max(0, now === undefined ? (by > 0 ? 0 : points.length - 1) : now + by),
            ),
          );
        }}
      >
        {[0, 0.5, 1].map((part) => (
          <g key={part}>
            <line x1={LEFT} x2={width} y1={y(part * top)} y2={y(part * top)} className="stroke-line" />
            <text x={LEFT - 6} y={y(part * top) + 4} textAnchor="end" className="fill-ink-2 text-[11.5px]">
              {Math.round(part * top)} {unit}
            </text>
          </g>
        ))}
        {points.length > 1 && (
          <polyline
            points={points.map((p, n) => `${x(n)},${y(p.value)}`).join(" ")}
            className="fill-none stroke-water"
            strokeWidth={2}
          />
        )}
        {points.map((p, n) => (
          <g key={n}>
            {p.low !== undefined && p.high !== undefined && (
              <line
                x1={x(n)}
                x2={x(n)}
                y1={y(p.low)}
                y2={y(p.high)}
                className="stroke-ink-2"
                strokeWidth={1.5}
              />
            )}
            <circle
              cx={x(n)}
              cy={y(p.value)}
              r={n === at ? 6 : 4.5}
              className="fill-deep stroke-sheet"
              strokeWidth={1.5}
            />
            {n % every === 0 && (
              <text x={x(n)} y={height - 6} textAnchor="middle" className="fill-ink-2 text-[11.5px]">
                {p.at}
              </text>
            )}
          </g>
        ))}
      </svg>
      {here && at !== undefined && (
        <p
          className="pointer-events-none absolute rounded border border-line bg-sheet px-2 py-0.5 text-[12px] whitespace-nowrap"
          style={{ left: Math.min(x(at) + 8, Math.max(0, width - 170)), top: 0 }}
        >
          {here.at}: {here.words}
        </p>
      )}
    </div>
  );
}
