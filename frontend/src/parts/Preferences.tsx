import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { Button, TextInput } from "./controls";
import { Sheet } from "./Sheet";
import { Failed, Loading } from "./states";
import { chooseTheme, chosenTheme, type Theme } from "./theme";

interface Choice {
  title: string;
  enum: string[];
  "x-names": Record<string, string>;
}

const THEMES: [Theme, string][] = [
  ["system", "as the system"],
  ["day", "day"],
  ["night", "night watch"],
];

export function usePreferences() {
  return useQuery({
    queryKey: ["preferences"],
    queryFn: () => answer(api.GET("/api/preferences")),
    staleTime: Infinity,
  });
}

function Options<T extends string>({
  legend,
  options,
  value,
  onChange,
}: {
  legend: string;
  options: [T, string][];
  value: T;
  onChange: (next: T) => void;
}) {
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 font-semibold">{legend}</legend>
      {options.map(([key, name]) => (
        <label key={key} className="flex items-center gap-2 py-0.5">
          <input
            type="radio"
            name={legend}
            className="accent-[var(--deep)]"
            checked={value === key}
            onChange={() => onChange(key)}
          />
          {name}
        </label>
      ))}
    </fieldset>
  );
}

/** Where practitioners differ, which school this user follows; and the look. */
export function PreferencesSheet({ onClose }: { onClose: () => void }) {
  const query = usePreferences();
  const client = useQueryClient();
  const [theme, setTheme] = useState(chosenTheme);
  const [draft, setDraft] = useState<Schemas["Preferences"]>();
  const save = useMutation({
    mutationFn: (body: Schemas["Preferences"]) => answer(api.PUT("/api/preferences", { body })),
    onSuccess: (data) => {
      client.setQueryData(["preferences"], data);
      void client.invalidateQueries();
      onClose();
    },
  });
  const chosen = draft ?? query.data?.preferences;
  const form = (query.data?.form.properties ?? {}) as Record<string, Choice>;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Preferences"
      about="Where practitioners differ. No school turns “no load”, “over the rating” or “speaker level into an input” into anything but a stop, and a maker’s own list of loads stands above all of them."
    >
      {query.isLoading && <Loading what="preferences" />}
      {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
      {chosen && (
        <>
          {(["match", "margin", "listening", "load"] as const).map((key) => (
            <Options
              key={key}
              legend={form[key]?.title ?? key}
              options={(form[key]?.enum ?? []).map((o): [string, string] => [
                o,
                form[key]?.["x-names"][o] ?? o,
              ])}
              value={chosen[key] as string}
              onChange={(next) => setDraft({ ...chosen, [key]: next } as Schemas["Preferences"])}
            />
          ))}
          <label className="mb-4 block" htmlFor="session-name">
            <span className="mb-1 block font-semibold">Session shown above</span>
            <TextInput
              id="session-name"
              value={chosen.session_name ?? ""}
              maxLength={80}
              onChange={(event) => setDraft({ ...chosen, session_name: event.target.value })}
            />
          </label>
          <Options
            legend="Look"
            options={THEMES}
            value={theme}
            onChange={(next) => {
              setTheme(next);
              chooseTheme(next);
            }}
          />
          {save.error && <Failed error={save.error} />}
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button
              look="main"
              disabled={!draft || save.isPending}
              onClick={() => draft && save.mutate(draft)}
            >
              Save preferences
            </Button>
          </div>
        </>
      )}
    </Sheet>
  );
}
