import { useState, type ReactNode } from "react";
import { Button } from "./controls";
import { asCsv, type Table } from "./table";

interface Props {
  /** What the chart is about, and the sentence that says what it shows. */
  title: ReactNode;
  sentence: string;
  table: Table;
  /** There is room for a sentence of more than one line. */
  roomy?: boolean;
  children: ReactNode;
}

/** A chart with what every chart has: a sentence, the same numbers as a table, and a copy as CSV. */
export function ChartFrame({ title, sentence, table, roomy, children }: Props) {
  const [shown, setShown] = useState(false);
  const [copied, setCopied] = useState(false);
  return (
    <section aria-label={typeof title === "string" ? title : "Chart"} className="flex h-full flex-col">
      <div
        className={`flex shrink-0 items-baseline gap-x-2 px-5 pt-2 text-[13px] ${roomy ? "flex-wrap" : ""}`}
      >
        <div className="shrink-0">{title}</div>
        <p className={`min-w-0 text-ink-2 ${roomy ? "order-last basis-full" : "truncate"}`} title={sentence}>
          {sentence}
        </p>
        <span className="ml-auto flex shrink-0 gap-1">
          <Button look="quiet" className="!py-0" onClick={() => setShown(!shown)}>
            {shown ? "Chart" : "Table"}
          </Button>
          <Button
            look="quiet"
            className="!py-0"
            onClick={() => void navigator.clipboard.writeText(asCsv(table)).then(() => setCopied(true))}
          >
            {copied ? "Copied" : "Copy as CSV"}
          </Button>
        </span>
      </div>
      {shown ? (
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a table that scrolls is reached by keyboard
        <div className="min-h-0 flex-1 overflow-auto px-5 py-1" tabIndex={0}>
          <table className="w-full text-[13px]">
            <thead>
              <tr className="text-left text-ink-2">
                {table.head.map((head) => (
                  <th key={head} className="py-1 pr-3 font-medium">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row, i) => (
                <tr key={i} className="border-t border-line">
                  {row.map((cell, j) => (
                    <td key={j} className={`py-1 pr-3 ${j === 0 ? "font-semibold" : ""}`}>
                      {cell ?? "none"}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <div className="min-h-0 flex-1 px-5">{children}</div>
      )}
    </section>
  );
}
