import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, Refusal, type Schemas } from "../api/client";
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
        <label key={key} className="flex min-h-[26px] items-center gap-2">
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
  const [draft, setDraftOf] = useState<{ of: number; chosen: Schemas["Preferences"] }>();
  /** The first choice is made on what is shown then; what another window saves later is not overwritten. */
  const setDraft = (next: Schemas["Preferences"]) =>
    setDraftOf((before) => ({ of: before?.of ?? query.data?.saves ?? 0, chosen: next }));
  const save = useMutation({
    mutationFn: (made: { of: number; chosen: Schemas["Preferences"] }) =>
      answer(api.PUT("/api/preferences", { params: { query: { saves: made.of } }, body: made.chosen })),
    onSuccess: (data) => {
      client.setQueryData(["preferences"], data);
      void client.invalidateQueries();
      onClose();
    },
    onError: async (error) => {
      if (!(error instanceof Refusal && error.status === 409)) return;
      const now = (await query.refetch()).data;
      setDraftOf((before) => before && { ...before, of: now?.saves ?? before.of });
    },
  });
  const chosen = draft?.chosen ?? query.data?.preferences;
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
          <label className="mb-4 block" htmlFor="currency">
            <span className="mb-1 block font-semibold">Prices are in</span>
            <TextInput
              id="currency"
              className="!w-24"
              value={chosen.currency ?? ""}
              maxLength={8}
              onChange={(event) => setDraft({ ...chosen, currency: event.target.value })}
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
            <Button onClick={onClose}>Discard changes</Button>
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
