import type { Schemas, Severity } from "../../api/client";
import { INK, Mark } from "../../parts/Mark";

const FILL: Record<Severity, string> = {
  stop: "bg-stop-fill text-on-fill",
  caution: "bg-caution-fill text-on-fill",
  note: "bg-sheet text-ok",
  fine: "bg-sheet text-ok",
};

function Sign({ severity }: { severity: Severity }) {
  if (severity === "note" || severity === "fine") return <Mark severity="fine" size={34} />;
  return (
    <svg
      width="34"
      height="34"
      viewBox="0 0 34 34"
      aria-hidden
      fill="none"
      stroke="currentColor"
      className="shrink-0"
    >
      {severity === "stop" ? (
        <>
          <circle cx="17" cy="17" r="15.3" strokeWidth="2.5" />
          <path d="M9 17h16" strokeWidth="4" />
        </>
      ) : (
        <>
          <path d="M17 3l15 27H2z" strokeWidth="2.5" strokeLinejoin="round" />
          <path d="M17 12v9M17 23.5v3" strokeWidth="3" />
        </>
      )}
    </svg>
  );
}

/** The verdict in words and the key numbers; it stays in view wherever the hook-up can be changed. */
export function Verdict({
  verdict,
  facts,
  before,
}: {
  verdict: Schemas["Verdict"];
  facts: Schemas["Fact"][];
  /** The same as it stands, while changes are held: told beside each number. */
  before?: { verdict: Schemas["Verdict"]; facts: Schemas["Fact"][] };
}) {
  const was = new Map(before?.facts.map((fact) => [fact.id, fact]));
  return (
    <section
      aria-label="Verdict"
      className="flex shrink-0 flex-wrap border-b border-line bg-sheet lg:h-[74px] lg:flex-nowrap short:sticky short:top-0 short:z-30 short:h-[36px] short:flex-nowrap short:overflow-hidden"
    >
      <div
        role="status"
        className={`flex w-full items-center gap-3.5 px-4 py-2 sm:w-[310px] sm:shrink-0 short:w-auto short:shrink-0 short:gap-2 short:py-0 short:[&>svg]:size-[20px] ${FILL[verdict.severity]}`}
      >
        <Sign severity={verdict.severity} />
        <div>
          <p className="text-[20px] leading-tight font-bold short:text-[15px] short:whitespace-nowrap">
            {verdict.words}
          </p>
          <p className="text-[13px] short:sr-only">
            {before ? `what if; as it stands: ${before.verdict.words.toLowerCase()}` : verdict.remark}
          </p>
        </div>
      </div>
      <dl className="grid min-w-0 basis-full grid-cols-2 lg:flex-1 lg:basis-0 lg:grid-flow-col lg:auto-cols-fr lg:grid-cols-none short:flex short:basis-auto">
        {facts.map((fact) => (
          <div
            key={fact.id}
            className="min-w-0 border-l border-line px-4 py-2 short:flex short:items-center short:px-2.5 short:py-0"
          >
            <dt className="text-[12px] text-ink-2 short:sr-only">{fact.name}</dt>
            <dd
              className={`truncate ${INK[fact.severity]}`}
              title={`${fact.value} ${fact.unit}, ${fact.remark}`}
            >
              <span className="text-[19px] leading-tight font-bold short:text-[15px]">{fact.value}</span>{" "}
              <span className="text-[13px] text-ink-2">{fact.unit}</span>
              {was.has(fact.id) && was.get(fact.id)!.value !== fact.value && (
                <span className="text-[12px] text-ink-2">
                  {" "}
                  from {was.get(fact.id)!.value} {was.get(fact.id)!.unit}
                </span>
              )}
              <span className="block truncate text-[12px] short:sr-only">{fact.remark}</span>
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
