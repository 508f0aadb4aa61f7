import { useState } from "react";
import { Button, Field, TextInput } from "../../parts/controls";
import type { Asking } from "./Question";

const read = (text: string) => Number(text.trim().replace("−", "-").replace(",", "."));

/** A number on a plain sheet: what is given, and a line for the answer. */
export function NumberSheet({ asked, onAnswer, isBusy, told }: Asking) {
  const [text, setText] = useState("");
  const value = read(text);
  const fit = text.trim() !== "" && Number.isFinite(value);
  return (
    <div className="mx-auto flex w-full max-w-[760px] flex-col gap-5 p-6">
      <dl className="grid grid-cols-[1fr_auto] gap-x-6 border-t border-line bg-sheet">
        {asked.given.map((each, n) => (
          <div
            key={n}
            className="col-span-2 grid grid-cols-subgrid items-baseline border-b border-line px-4 py-2"
          >
            <dt>{each.name}</dt>
            <dd className="text-right text-[17px] font-semibold">{each.value}</dd>
          </div>
        ))}
      </dl>
      {told ?? (
        <form
          className="flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (fit && !isBusy) onAnswer({ by: "number", value });
          }}
        >
          <div className="w-[220px]">
            <Field
              label="Your answer"
              unit={asked.unit}
              problem={text.trim() && !fit ? "Your answer: a number is wanted, as 12 or −3.5." : undefined}
            >
              <TextInput
                autoFocus
                inputMode="text"
                autoComplete="off"
                value={text}
                onChange={(event) => setText(event.target.value)}
                className="text-[17px]"
              />
            </Field>
          </div>
          <Button type="submit" look="main" disabled={!fit || isBusy}>
            That is it
          </Button>
        </form>
      )}
    </div>
  );
}
