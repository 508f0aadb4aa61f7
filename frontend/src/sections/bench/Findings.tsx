import { memo, useState } from "react";
import { Link } from "react-router";
import type { BenchState, Change, Finding } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { fieldLink } from "../../parts/fieldLink";
import { Mark } from "../../parts/Mark";
import { Outcome } from "./Outcome";
import { identities, type Numbers } from "./numbers";
import { Slips } from "./Slips";

interface Props {
  state: BenchState;
  /** Changes that are held; slips are told of the hook-up as it stands. */
  held: Change[];
  busy: boolean;
  /** Why fixes could not be tried. */
  unmended?: { error: Error; retry: () => void };
  /** The number key that puts on a finding's fix, by what it is about. */
  numbers: Numbers;
  /** Headlines alone, all but the one that has the focus: the picture needs the width. */
  folded: boolean;
  onFix: (finding: Finding) => void;
  onChange: (changes: Change[]) => void;
  onLight: (about: Pick<Finding, "units" | "leads"> | null) => void;
}

function count(findings: Finding[], severity: string, one: string, many: string): string {
  const n = findings.filter((f) => f.severity === severity).length;
  return n ? `${n} ${n === 1 ? one : many}` : "";
}

const Item = memo(function Item({
  finding,
  place,
  busy,
  askTo,
  askWords,
  atRisk,
  folded,
  onFix,
  onLight,
  unmended,
}: Pick<Props, "busy" | "folded" | "onFix" | "onLight" | "unmended"> & {
  finding: Finding;
  place?: number;
  /** The field that would settle it: where it is, and in words. */
  askTo?: string;
  askWords?: string;
  /** What a stop puts at risk, where prices are known. */
  atRisk?: string;
}) {
  const [near, setNear] = useState(false);
  const [focused, setFocused] = useState(false);
  const whole = !folded || focused;
  const main = finding.severity === "stop";
  const differs = finding.school?.others.filter((o) => o.severity !== finding.severity) ?? [];
  return (
    <li
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- focusing a finding lights up what it is about
      tabIndex={0}
      data-finding={finding.id}
      onMouseEnter={() => onLight(finding)}
      onMouseLeave={() => onLight(null)}
      onFocus={() => {
        setFocused(true);
        onLight(finding);
      }}
      onBlur={(event) => {
        setFocused(event.currentTarget.contains(event.relatedTarget));
        onLight(null);
      }}
      className="grid grid-cols-[22px_1fr] gap-2 border-t border-line px-4 py-2.5 first:border-t-0 focus-visible:-outline-offset-2"
    >
      <Mark severity={finding.severity} />
      <div className="min-w-0">
        <p className="leading-[1.3] font-semibold">
          {finding.text} {!whole && finding.fix && place && place < 10 && <Key>{place}</Key>}
        </p>
        {whole && (
          <>
            <p className="mt-0.5 text-[13px] text-ink-2">
              {finding.reason}{" "}
              <Link
                to={`/help/checks#${finding.id}`}
                aria-label={`The rule behind it: ${finding.text}`}
                title="the rule behind it"
                className="inline-block min-w-[24px] text-center text-deep underline"
              >
                rule
              </Link>
            </p>
            {(finding.typical ?? []).length > 0 && finding.severity !== "fine" && (
              <p className="mt-0.5 text-[12px] text-ink-2 italic">{(finding.typical ?? []).join("; ")}</p>
            )}
            {finding.school && (finding.severity !== "fine" || differs.length > 0) && (
              <p className="mt-0.5 text-[12px] text-ink-2">
                Your school: {finding.school.chosen}.{" "}
                {differs.length > 0
                  ? differs.map((o) => `“${o.name}” would say ${o.severity}`).join("; ") + "."
                  : "The others say the same."}
              </p>
            )}
            {atRisk && (
              <p className="mt-0.5 text-[12.5px]">
                At risk: <b className="font-semibold">{atRisk}</b>
              </p>
            )}
            {askTo && (
              <p className="mt-0.5 text-[12.5px]">
                <Link to={askTo} className="inline-block min-h-[24px] text-deep underline">
                  {askWords}
                </Link>{" "}
                <Key>e</Key>
              </p>
            )}
            {finding.sought && !unmended && (
              <p className="late mt-1.5 flex min-h-[32px] items-center text-[12px] text-ink-2">
                Looking for a fix …
              </p>
            )}
            {finding.fix && (
              <div onMouseEnter={() => setNear(true)} onFocus={() => setNear(true)}>
                <Button
                  look={main ? "main" : "plain"}
                  className="mt-1.5"
                  disabled={busy}
                  onClick={() => onFix(finding)}
                >
                  {finding.fix.label} {place && place < 10 && <Key>{place}</Key>}
                </Button>
                {near && <Outcome className="mt-1" changes={finding.fix.changes} />}
              </div>
            )}
          </>
        )}
      </div>
    </li>
  );
});

export function Findings(props: Props) {
  const { findings, typical, asks: asked, stakes: staked } = props.state.analysis;
  const stakes = new Map(staked.map((stake) => [stake.finding, stake.text]));
  const about = identities(findings);
  const back = `/bench/${props.state.id}`;
  const asks = new Map(
    asked.map((ask) => [
      ask.finding,
      {
        to: fieldLink(ask.unit, ask.label, back),
        words: `Say it in the Locker: ${ask.label} of ${ask.name}`,
      },
    ]),
  );
  const said = [
    count(findings, "stop", "stop", "stops"),
    count(findings, "caution", "caution", "cautions"),
    count(findings, "note", "note", "notes"),
  ].filter(Boolean);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <h2 className="flex shrink-0 items-baseline justify-between gap-3 px-4 pt-3 pb-1.5 text-[13px] font-bold">
        What the checks found <span className="font-normal text-ink-2">{said.join(", ")}</span>
      </h2>
      {props.unmended && (
        <p className="shrink-0 px-4 pb-1.5 text-[12px] text-ink-2">
          Fixes could not be tried: {props.unmended.error.message}{" "}
          <button type="button" className="underline" onClick={props.unmended.retry}>
            Try again
          </button>
        </p>
      )}
      <ol aria-label="Findings" className="min-h-0 flex-1 overflow-y-auto">
        {findings.map((finding, i) => (
          <Item
            key={about[i]}
            busy={props.busy}
            onFix={props.onFix}
            onLight={props.onLight}
            unmended={props.unmended}
            folded={props.folded}
            atRisk={stakes.get(finding.key)}
            askTo={asks.get(finding.key)?.to}
            askWords={asks.get(finding.key)?.words}
            finding={finding}
            place={props.numbers.get(about[i]!)}
          />
        ))}
        {props.held.length === 0 && <Slips {...props} />}
        {typical.length > 0 && (
          <li className="border-t border-line px-4 py-2.5 text-[12px] text-ink-2">
            <details>
              <summary className="cursor-pointer font-semibold">
                {typical.length} value{typical.length === 1 ? "" : "s"} typical or estimated, not measured
              </summary>
              <ul className="mt-1 list-disc pl-5">
                {typical.map((each) => (
                  <li key={each.text}>
                    <Link to={fieldLink(each.unit, each.label, back)} className="underline">
                      {each.text}
                    </Link>
                  </li>
                ))}
              </ul>
            </details>
          </li>
        )}
      </ol>
    </div>
  );
}
