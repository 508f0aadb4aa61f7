import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, Refusal } from "../../api/client";
import { TextInput } from "../../parts/controls";
import { wished } from "./useLoudness";

/** The wished level, to be typed as people say it: 72 dBA, 12 dB down, half a watt, half the power. */
export function Wanted({
  hookup,
  place,
  wanted,
  onWanted,
}: {
  hookup: string;
  place: string;
  wanted: number;
  onWanted: (level: number) => void;
}) {
  const [text, setText] = useState<string>();
  const read = useMutation({
    mutationFn: (said: string) =>
      answer(
        api.GET("/api/hookups/{hookup_id}/loudness", {
          params: { path: { hookup_id: hookup }, query: { place, said } },
        }),
      ),
    onSuccess: ({ plan }) => {
      if (plan.wanted != null) onWanted(plan.wanted);
      setText(undefined);
    },
  });
  const leave = () => {
    if (text?.trim() && text.trim() !== wished(wanted)) read.mutate(text);
    else setText(undefined);
  };
  const refused = read.error instanceof Refusal ? read.error.problems.join(" ") : read.error?.message;
  return (
    <>
      <TextInput
        aria-label="Wanted level"
        aria-invalid={Boolean(refused)}
        aria-describedby={refused ? "wanted-refused" : undefined}
        title="A level (72 dBA), how far down (12 dB down), watts (0.5 W), or a part (half the power, half as loud)"
        className="!w-[98px] !py-0.5 font-semibold"
        maxLength={60}
        value={text ?? wished(wanted)}
        onChange={(event) => {
          read.reset();
          setText(event.target.value);
        }}
        onFocus={(event) => event.target.select()}
        onBlur={leave}
        onKeyDown={(event) => {
          if (event.key === "Enter") leave();
          if (event.key === "Escape") {
            read.reset();
            setText(undefined);
          }
        }}
      />
      {refused && (
        <p id="wanted-refused" role="alert" className="order-last basis-full text-stop">
          {refused}
        </p>
      )}
    </>
  );
}
