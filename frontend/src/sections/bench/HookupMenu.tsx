import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, sendFile, type BenchState } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { VerdictMark } from "../../parts/Mark";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import type { At } from "./OfHookup";

export function useHookups(search = "") {
  return useQuery({
    queryKey: ["hookups", search],
    queryFn: () => answer(api.GET("/api/hookups", { params: { query: { search } } })),
    placeholderData: keepPreviousData,
  });
}

/** Makes a hook-up, from nothing or from a file, and goes to it. */
export function useNewHookup() {
  const client = useQueryClient();
  const go = useNavigate();
  return useMutation({
    mutationFn: (from: string | File) =>
      typeof from === "string"
        ? answer(api.POST("/api/hookups", { body: { name: from, hookup: null } }))
        : sendFile<BenchState>("/api/hookups/import", from),
    onSuccess: (state) => {
      client.setQueryData(["hookup", state.id], state);
      void client.invalidateQueries({ queryKey: ["hookups"] });
      currentHookup.set(state.id);
      void go(`/bench/${state.id}`);
    },
  });
}

export function HookupMenu({ onClose, at = "bench" }: { onClose: () => void; at?: "bench" | "run" | At }) {
  const [words, setWords] = useState("");
  const hookups = useHookups(useDeferredValue(words));
  const make = useNewHookup();
  const go = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  return (
    <Sheet open onClose={onClose} title="Hook-ups">
      <TextInput
        aria-label="Search hook-ups"
        placeholder="Search by name …"
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      {hookups.error && <Failed error={hookups.error} retry={() => void hookups.refetch()} />}
      <ul className="my-2 max-h-[46vh] overflow-y-auto">
        {hookups.data?.entries.map((entry) => (
          <li key={entry.id}>
            <button
              type="button"
              className="flex w-full items-center gap-2.5 rounded-md px-2 py-1.5 text-left hover:bg-shoal"
              onClick={() => {
                onClose();
                void go(`/${at}/${entry.id}`);
              }}
            >
              <VerdictMark severity={entry.severity} size={18} />
              <span className="font-semibold">{entry.name}</span>
              <span className="ml-auto shrink-0 text-[12px] text-ink-2">
                {entry.is_on ? "switched on" : entry.words}
              </span>
            </button>
          </li>
        ))}
        {hookups.data?.entries.length === 0 && (
          <li className="p-2 text-ink-2">
            {words ? "None has these words in its name." : "There are none yet."}
          </li>
        )}
      </ul>
      {make.error && <Failed error={make.error} />}
      <div className="flex justify-end gap-2">
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          aria-label="Hook-up file"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) make.mutate(chosen, { onSuccess: onClose });
          }}
        />
        <Button onClick={() => file.current?.click()}>Open a file …</Button>
        <Button
          look="main"
          onClick={() => make.mutate(words.trim() || "New hook-up", { onSuccess: onClose })}
        >
          {words.trim() ? `New: “${words.trim().slice(0, 40)}”` : "New hook-up"}
        </Button>
      </div>
    </Sheet>
  );
}
