import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { usePreferences } from "../../parts/Preferences";
import { Failed } from "../../parts/states";
import { asNumber } from "../../parts/typed";
import { dba, type Plan } from "./useLoudness";

type LevelMark = Schemas["LevelMark"];

/** Levels one knows by ear, and one's own among them: they stand beside the staff. */
export function Marks({ plan }: { plan: Plan }) {
  const client = useQueryClient();
  const known = usePreferences().data;
  const own = known?.preferences.marks ?? [];
  const [name, setName] = useState("");
  const [level, setLevel] = useState("");
  const keep = useMutation({
    mutationFn: (marks: LevelMark[]) =>
      answer(
        api.PUT("/api/preferences", {
          params: { query: { saves: known!.saves } },
          body: { ...known!.preferences, marks },
        }),
      ),
    onSuccess: (data) => {
      client.setQueryData(["preferences"], data);
      void client.invalidateQueries({ queryKey: ["loudness"] });
      setName("");
      setLevel("");
    },
    onError: () => void client.invalidateQueries({ queryKey: ["preferences"] }),
  });
  return (
    <details className="border-t border-line px-4 py-2 text-[13px]">
      <summary className="min-h-[24px] cursor-pointer font-bold">Marks of daily life</summary>
      <p className="text-[12.5px] text-ink-2">
        To think of a number by, where they usually are heard; typical, never a limit.
      </p>
      <ul className="mt-1">
        {plan.marks.map((mark) => {
          const mine = own.findIndex((m) => m.name === mark.name && m.level === mark.level);
          return (
            <li key={`${mark.name} ${mark.level}`} className="flex min-h-[26px] items-center gap-2">
              <span className="min-w-0 flex-1 truncate">{mark.name}</span>
              <span>{dba(mark.level)}</span>
              {mine >= 0 ? (
                <Button
                  look="quiet"
                  className="!px-1 !py-0"
                  aria-label={`Remove ${mark.name}`}
                  disabled={keep.isPending}
                  onClick={() => keep.mutate(own.filter((_, i) => i !== mine))}
                >
                  <Trash2 size={13} />
                </Button>
              ) : (
                <span className="w-[23px]" />
              )}
            </li>
          );
        })}
      </ul>
      <form
        className="mt-1 flex items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate([...own, { name: name.trim(), level: asNumber(level) }]);
        }}
      >
        <TextInput
          aria-label="Name of a mark of your own"
          placeholder="the kettle"
          maxLength={40}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <TextInput
          aria-label="Its level, dBA"
          inputMode="decimal"
          placeholder="dBA"
          className="!w-16"
          value={level}
          onChange={(e) => setLevel(e.target.value)}
        />
        <Button type="submit" disabled={!known || !name.trim() || !level.trim() || keep.isPending}>
          Add
        </Button>
      </form>
      {keep.error && <Failed error={keep.error} />}
    </details>
  );
}
