import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, type ReactNode } from "react";

/** Up to so many rows all are there, so that the browser's own search finds them. */
const PLAIN = 200;

/** Rows that scroll; of many only those in view are there. */
export function LongList({
  count,
  row,
  height,
  className,
  children,
}: {
  count: number;
  row: (index: number) => ReactNode;
  /** About how high a row is, px; what it is in truth is measured. */
  height: (index: number) => number;
  className?: string;
  /** What stands before the rows. */
  children?: ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: height,
    overscan: 12,
    enabled: count > PLAIN,
  });
  return (
    <div ref={box} className={className}>
      {children}
      {count <= PLAIN ? (
        Array.from({ length: count }, (_, index) => <div key={index}>{row(index)}</div>)
      ) : (
        <div className="relative" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map((item) => (
            <div
              key={item.key}
              data-index={item.index}
              ref={rows.measureElement}
              className="absolute inset-x-0 top-0"
              style={{ transform: `translateY(${item.start}px)` }}
            >
              {row(item.index)}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
