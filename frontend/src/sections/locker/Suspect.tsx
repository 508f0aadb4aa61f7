import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { tellOtherWindows } from "../../parts/elsewhere";
import { Mark } from "../../parts/Mark";
import { Failed } from "../../parts/states";

/** Whether a unit may have been hurt: marked with a reason, cleared with a word. */
export function Suspect({ unit, name }: { unit: string; name: string }) {
  const client = useQueryClient();
  const key = ["suspects"];
  const [word, setWord] = useState("");
  const [asking, setAsking] = useState(false);
  const query = useQuery({ queryKey: key, queryFn: () => answer(api.GET("/api/suspects")) });
  const path = { params: { path: { gear_id: unit } } };
  const now = query.data?.suspects.find((each) => each.unit === unit && !each.cleared);
  const say = useMutation({
    mutationFn: () =>
      now
        ? answer(api.POST("/api/suspects/{gear_id}/clear", { ...path, body: { word } }))
        : answer(api.POST("/api/suspects/{gear_id}", { ...path, body: { word } })),
    onSuccess: (state) => {
      client.setQueryData(key, state);
      setWord("");
      setAsking(false);
      const related = [["hookup"], ["hookups"], ["run"], ["lines"]];
      for (const queryKey of related) void client.invalidateQueries({ queryKey });
      tellOtherWindows(key, ...related);
    },
  });
  if (!query.data) return null;
  if (!now && !asking)
    return (
      <Button look="quiet" className="text-[13px]" onClick={() => setAsking(true)}>
        Mark as suspect …
      </Button>
    );
  return (
    <section
      aria-label={now ? `${name} is suspect` : `Mark ${name} as suspect`}
      className="my-2 rounded-lg border-[1.5px] border-caution bg-sheet px-4 py-3"
    >
      {now && (
        <p className="flex items-start gap-2">
          <Mark severity="caution" />
          <span>
            <b>It is suspect.</b> {now.why} Every hook-up with it says so until it is cleared.
          </span>
        </p>
      )}
      <div className="mt-2 flex max-w-[620px] gap-2">
        <TextInput
          aria-label={now ? "Your word" : "Why it is suspect"}
          placeholder={now ? "Measured 7.9 Ω, looked at by … " : "Ran into a short on Tuesday"}
          maxLength={200}
          value={word}
          onChange={(event) => setWord(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== "Enter") return;
            // It stands inside the unit's own form, which is not sent by it.
            event.preventDefault();
            if (word.trim()) say.mutate();
          }}
        />
        <Button disabled={!word.trim() || say.isPending} onClick={() => say.mutate()}>
          {now ? "Clear it" : "Mark it"}
        </Button>
        {!now && (
          <Button look="quiet" onClick={() => setAsking(false)}>
            Leave it
          </Button>
        )}
      </div>
      {say.error && <Failed error={say.error} />}
    </section>
  );
}
