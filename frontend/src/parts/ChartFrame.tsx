import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState, type ReactNode } from "react";
import { Button } from "./controls";
import { copyText } from "./copyText";
import { answer, api } from "../api/client";
import type { Table } from "./table";

const ROW_HEIGHT = 28;

interface Props {
  /** What the chart is about, and the sentence that says what it shows. */
  title: ReactNode;
  /** What it is called where its title is more than words; two on a screen are called differently. */
  label?: string;
  sentence: string;
  table: Table;
  /** There is room for a sentence of more than one line. */
  roomy?: boolean;
  children: ReactNode;
}

/** The numbers of a chart; of some hundred rows only those in view are there. */
function Numbers({ table: { head, rows } }: { table: Table }) {
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 20,
  });
  const shown = virtual.getVirtualItems();
  const above = shown[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (shown.at(-1)?.end ?? 0);
  return (
    // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a table that scrolls is reached by keyboard
    <div ref={box} className="min-h-0 flex-1 overflow-auto px-5 py-1" tabIndex={0}>
      <table className="w-full text-[13px]" aria-rowcount={rows.length + 1}>
        <thead>
          <tr className="text-left text-ink-2">
            {head.map((each) => (
              <th key={each} className="py-1 pr-3 font-medium">
                {each}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {above > 0 && <tr aria-hidden style={{ height: above }} />}
          {shown.map(({ index }) => (
            <tr key={index} aria-rowindex={index + 2} className="h-[28px] border-t border-line">
              {rows[index]!.map((cell, j) => (
                <td key={j} className={`py-1 pr-3 ${j === 0 ? "font-semibold" : ""}`}>
                  {cell ?? "–"}
                </td>
              ))}
            </tr>
          ))}
          {below > 0 && <tr aria-hidden style={{ height: below }} />}
        </tbody>
      </table>
    </div>
  );
}

/** A chart with what every chart has: a sentence, the same numbers as a table, and a copy as CSV. */
export function ChartFrame({ title, label, sentence, table, roomy, children }: Props) {
  const [shown, setShown] = useState(false);
  const [copied, setCopied] = useState<"" | "yes" | "no">("");
  const copy = async () => {
    // Written by the server, as every other CSV is: it knows what a spreadsheet would take for a formula.
    const { text } = await answer(api.POST("/api/tools/csv", { body: table }));
    await copyText(text);
  };
  return (
    <section
      aria-label={label ?? (typeof title === "string" ? title : "Chart")}
      className="flex h-full flex-col"
    >
      <div
        className={`flex shrink-0 items-baseline gap-x-2 px-5 pt-2 text-[13px] ${roomy ? "flex-wrap" : ""}`}
      >
        <div className="shrink-0">{title}</div>
        <p className={`min-w-0 text-ink-2 ${roomy ? "order-last basis-full" : "truncate"}`} title={sentence}>
          {sentence}
        </p>
        <span className="ml-auto flex shrink-0 gap-1">
          <Button look="quiet" className="min-h-[24px] !py-0" onClick={() => setShown(!shown)}>
            {shown ? "Chart" : "Table"}
          </Button>
          <Button
            look="quiet"
            className="min-h-[24px] !py-0"
            onClick={() =>
              void copy().then(
                () => setCopied("yes"),
                () => setCopied("no"),
              )
            }
          >
            {{ "": "Copy as CSV", yes: "Copied", no: "Not copied: once more" }[copied]}
          </Button>
        </span>
      </div>
      {shown ? <Numbers table={table} /> : <div className="relative min-h-0 flex-1 px-5">{children}</div>}
    </section>
  );
}
