import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { useNavigate } from "react-router";
import { answer, api, Refusal, type Schemas } from "../../api/client";

const UNREADABLE = new Refusal(0, {
  title: "The recipe cannot be read",
  problems: ["This file is no recipe of a blend: it is not JSON."],
});

/** A recipe that is read in: the file is chosen, and a blend is made of it. */
export function useRecipe() {
  const go = useNavigate();
  const client = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const read = useMutation({
    mutationFn: async (file: File) => {
      let plain: unknown;
      try {
        plain = JSON.parse(await file.text());
      } catch {
        throw UNREADABLE;
      }
      return answer(api.POST("/api/blends/recipe", { body: plain as Schemas["RecipeBody"] }));
    },
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["blends"] });
      void go(`/cab/${made.id}`);
    },
  });
  return {
    error: read.error,
    choose: () => chooser.current?.click(),
    input: (
      <input
        ref={chooser}
        type="file"
        accept=".json,application/json"
        aria-label="Recipe of a blend"
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) read.mutate(file);
        }}
      />
    ),
  };
}
