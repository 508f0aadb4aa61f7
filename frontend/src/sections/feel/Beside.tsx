import { lazy, Suspense, type ReactNode } from "react";
import type { FrequencyCurve } from "../../parts/FrequencyChart";
import { Loading } from "../../parts/states";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));

/** Curves in dB, and beside them what they come to. */
export function Beside({
  frequency,
  curves,
  label,
  children,
}: {
  frequency: number[];
  curves: FrequencyCurve[];
  label: string;
  children: ReactNode;
}) {
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3 lg:flex-row">
      <div className="min-h-[220px] min-w-0 flex-1">
        <Suspense fallback={<Loading what="the chart" />}>
          <FrequencyChart frequency={frequency} unit="dB" digits={1} curves={curves} />
        </Suspense>
      </div>
      <section aria-label={label} className="w-full shrink-0 overflow-y-auto pb-2 lg:w-[264px]">
        {children}
      </section>
    </div>
  );
}
