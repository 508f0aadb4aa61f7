import type { Schemas } from "../../api/client";

const number = (value: number | null | undefined, unit: string, digits = 1) =>
  value === null || value === undefined ? undefined : `${value.toFixed(digits).replace("-", "−")} ${unit}`;

/** The measures of a take, each with its unit; what the sound gives no answer to is left out. */
export function Figures({ inspection }: { inspection: Schemas["Inspection"] }) {
  const { measures, dynamics } = inspection;
  const told: [string, string | undefined, string][] = [
    ["True peak", number(measures.true_peak_dbtp, "dBTP"), "between samples, four times oversampled"],
    ["Loudness", number(measures.loudness_lufs, "LUFS"), "integrated, BS.1770"],
    [
      "Loudness range",
      number(inspection.loudness_range_lu, "LU"),
      inspection.loudness_range_sure ? "EBU Tech 3342" : "not reliable: under 60 s",
    ],
    ["RMS", number(measures.rms_dbfs, "dBFS"), "over all of it"],
    ["Crest", number(measures.crest_db, "dB"), "peak over RMS"],
    ["L10 − L90", number(dynamics.range_db, "dB"), "50 ms levels of what is played"],
    [
      "Attack",
      number(dynamics.attack?.median_db, "dB"),
      `peak of the first 20 ms over 100 to 300 ms; median of ${dynamics.attack?.notes ?? 0} notes`,
    ],
    ["Noise, A-weighted", number(inspection.noise?.a_weighted_dbfs, "dBFS"), "of the quiet part"],
  ];
  return (
    <dl className="flex shrink-0 flex-wrap gap-x-5 gap-y-1 text-[12.5px]">
      {told
        .filter(([, value]) => value)
        .map(([name, value, how]) => (
          <div key={name} title={how}>
            <dt className="text-[11.5px] text-ink-2">
              {name}
              {how.startsWith("not reliable") && " (short)"}
            </dt>
            <dd className="font-semibold whitespace-nowrap">{value}</dd>
          </div>
        ))}
    </dl>
  );
}
