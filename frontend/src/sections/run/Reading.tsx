import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Severity } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { Mark } from "../../parts/Mark";
import { short } from "../../parts/table";
import { typed } from "../../parts/typed";
import type { Run, StepState } from "./useRun";

const SEVERITY: Record<string, Severity> = { inside: "fine", look: "caution", stop: "stop" };
const SAYS: Record<string, string> = { inside: "As it should be", look: "Look", stop: "Stop" };

export const useReadingKinds = () =>
  useQuery({
    queryKey: ["reading-kinds"],
    queryFn: () => answer(api.GET("/api/run/readings")),
    staleTime: Infinity,
    gcTime: Infinity,
  });

/** What was read, in words. */
export const shown = (value: number | null, unit: string) =>
  value === null ? "no end of ohms" : `${short(value)} ${unit}`;

/** What a meter shows at this step, typed or read, and held against what it should. */
export function Reading({ run, step }: { run: Run; step: StepState }) {
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState(false);
  const kinds = useReadingKinds();
  const { reads, id } = step.step;
  const kind = kinds.data?.kinds.find((each) => each.quantity === reads?.quantity);
  if (!reads || !kind) return null;
  const keep = () => {
    const value = typed(text);
    if (typeof value !== "number") return setWrong(true);
    setWrong(false);
    run.read.mutate({ step: id, value, from_device: false }, { onSuccess: () => setText("") });
  };
  const { reading } = step;
  const unsent = run.held.held.filter((each) => each.kind === "reading").findLast((each) => each.step === id);
  return (
    <div className="mt-5 max-w-[760px]">
      <form
        className="flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <label className="flex flex-col gap-1 text-[14px] text-ink-2">
          {kind.label}, {kind.unit}
          <TextInput
            inputMode="decimal"
            aria-invalid={wrong}
            className="!w-[130px] !py-2 !text-[21px] font-semibold"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <Button type="submit" className="!px-4 !py-2.5 !text-[15px]" disabled={!text.trim()}>
          Hold it against this
        </Button>
        {reads.quantity === "ohms" && (
          <Button
            className="!py-2.5 !text-[15px]"
            onClick={() => run.read.mutate({ step: id, value: null, from_device: false })}
          >
            It shows no end
          </Button>
        )}
        {kind.simulated && (
          <Button
            className="!py-2.5 !text-[15px]"
            onClick={() => run.read.mutate({ step: id, value: null, from_device: true })}
          >
            Read the simulated one
          </Button>
        )}
      </form>
      {wrong && (
        <p role="alert" className="mt-1 font-medium text-stop">
          {kind.label}: a number in {kind.unit} is wanted.
        </p>
      )}
      {unsent && (
        <p role="alert" className="mt-3 rounded-lg border-[1.5px] border-caution px-4 py-3 text-[17px]">
          <b>Not judged yet: {shown(unsent.value, kind.unit)}.</b> It is held here until the server is
          reached. Hold it yourself against what you should see, above.
        </p>
      )}
      {reading && (
        <div
          role={reading.held.answer === "stop" ? "alert" : "status"}
          className={`mt-3 flex gap-3 rounded-lg border-[1.5px] px-4 py-3 ${
            reading.held.answer === "stop"
              ? "border-stop bg-flood"
              : reading.held.answer === "look"
                ? "border-caution bg-sheet"
                : "border-line bg-sheet"
          }`}
        >
          <Mark severity={SEVERITY[reading.held.answer]!} size={30} />
          <div className="min-w-0">
            <p className="text-[21px] leading-tight font-bold">
              {SAYS[reading.held.answer]}:{" "}
              {reading.value === null ? "no end of ohms" : `${short(reading.value)} ${kind.unit}`}
              {reading.simulated && <span className="font-normal text-ink-2">, simulated</span>}
            </p>
            {reading.held.answer !== "inside" && <p className="mt-1 text-[17px]">{reading.held.words}</p>}
            {reading.drift && <p className="mt-1 text-[15px] font-semibold">{reading.drift}</p>}
            <button
              type="button"
              className="mt-1 min-h-[24px] text-[13px] text-deep underline"
              onClick={() => run.takeBack.mutate(id)}
            >
              take this reading back
            </button>
          </div>
        </div>
      )}
    </div>
  );
}
