import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { answer, api } from "../../api/client";
import { FIELD } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { fixed, short } from "../../parts/table";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));
type Rate = "44100" | "48000" | "96000";
const RATES: Rate[] = ["44100", "48000", "96000"];

/** The bands that bring a recording to the reference, and files of them. */
export function Matching({ comparison, audio }: { comparison: number; audio: string }) {
  const [rate, setRate] = useState<Rate>("48000");
  const query = useQuery({
    queryKey: ["matching", comparison, audio, rate],
    queryFn: () =>
      answer(
        api.GET("/api/comparisons/{comparison_id}/matching/{audio}", {
          params: { path: { comparison_id: comparison, audio }, query: { rate } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const base = `/api/comparisons/${comparison}/matching/${audio}`;
  if (query.error) return <Failed error={query.error} />;
  if (!query.data) return <Loading what="the filter" />;
  const { correction, frequency, words } = query.data;
  return (
    <div className="absolute inset-0 mx-5 flex flex-col gap-3 overflow-y-auto pt-2 md:flex-row">
      <div className="min-h-[170px] min-w-0 flex-1">
        <Suspense fallback={<Loading what="the chart" />}>
          <FrequencyChart
            frequency={frequency}
            unit="dB"
            digits={1}
            curves={[
              { name: "wanted", values: correction.target },
              { name: "bands", values: correction.fitted },
            ]}
          />
        </Suspense>
      </div>
      <section aria-label="Bands" className="w-full shrink-0 overflow-y-auto text-[12.5px] md:w-[250px]">
        <p className="text-ink-2">{words}</p>
        <table className="mt-1 w-full">
          <thead className="text-left text-ink-2">
            <tr>
              {["Band", "at", "gain", "Q"].map((head) => (
                <th key={head} className="font-medium">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(correction.bands ?? []).map((band) => (
              <tr key={`${band.kind}${band.frequency}`} className="border-t border-line">
                <td className="py-0.5 font-semibold">{band.kind}</td>
                <td>{Math.round(band.frequency)} Hz</td>
                <td>{fixed(band.gain, 1)} dB</td>
                <td>{short(band.q)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-1">
          <label className="flex items-center gap-1">
            at
            <select
              className={`${FIELD} !w-[92px] !py-0`}
              value={rate}
              onChange={(e) => setRate(e.target.value as Rate)}
            >
              {RATES.map((each) => (
                <option key={each} value={each}>
                  {Number(each) / 1000} kHz
                </option>
              ))}
            </select>
          </label>
          <a className="text-deep underline" href={`${base}/bands.csv?rate=${rate}`} download>
            Bands as CSV
          </a>
          <a className="text-deep underline" href={`${base}/filter.wav?rate=${rate}`} download>
            Filter as WAV
          </a>
        </p>
      </section>
    </div>
  );
}
