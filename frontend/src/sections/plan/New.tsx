import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../../api/client";
import { Button, Field, TextInput } from "../../parts/controls";
import { Failed } from "../../parts/states";

const dayAfter = (days: number) => {
  const date = new Date();
  date.setDate(date.getDate() + days);
  const two = (number: number) => String(number).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
};

/** A new project: its name, and the first day; everything else can be said afterwards. */
export function New({ first }: { first: boolean }) {
  const [name, setName] = useState("");
  const [days, setDays] = useState("2");
  const [tried, setTried] = useState(false);
  const client = useQueryClient();
  const go = useNavigate();
  const count = Number(days);
  const wrong = !name.trim() ? "A project needs a name." : undefined;
  const wrongDays =
    Number.isInteger(count) && count >= 1 && count <= 31 ? undefined : "Days: 1 to 31, a whole number.";
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/plans", {
          body: {
            project: {
              name: name.trim(),
              days: Array.from({ length: count }, (_, i) => ({ date: dayAfter(i + 1) })),
            } as never,
          },
        }),
      ),
    onSuccess: (made) => {
      client.setQueryData(["plan", made.id], made);
      void client.invalidateQueries({ queryKey: ["plans"] });
      void go(`/plan/${made.id}/parts`);
    },
  });
  return (
    <form
      aria-label="A new project"
      className="mx-auto grid w-[min(520px,94vw)] gap-3 p-6"
      onSubmit={(event) => {
        event.preventDefault();
        setTried(true);
        if (!wrong && !wrongDays) make.mutate();
      }}
    >
      <h2 className="text-[18px] font-bold">{first ? "What to record when" : "A new project"}</h2>
      <p className="text-ink-2">
        Say which parts there are and when somebody is there. Loud parts are laid into hours in which they may
        be loud, silent ones into the night, and leads are moved as seldom as can be. How loud a part is
        follows from its hook-up.
      </p>
      <Field label="Project" problem={tried ? wrong : undefined}>
        <TextInput autoFocus maxLength={80} value={name} onChange={(event) => setName(event.target.value)} />
      </Field>
      <Field
        label="Days, from tomorrow on"
        problem={tried ? wrongDays : undefined}
        hint="10:00 to 18:00 each; all of it can be changed."
      >
        <TextInput inputMode="numeric" value={days} onChange={(event) => setDays(event.target.value)} />
      </Field>
      {make.error && <Failed error={make.error} />}
      <div>
        <Button look="main" type="submit" disabled={make.isPending}>
          Begin the project
        </Button>
      </div>
    </form>
  );
}
