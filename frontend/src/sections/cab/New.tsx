import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { NameIt } from "../../parts/NameIt";
import { Empty, Failed } from "../../parts/states";
import { FromLibrary } from "./FromLibrary";
import { MOST_PARTS } from "./useBlend";
import { useRecipe } from "./useRecipe";

/** A new blend: its name, and what it begins with. */
export function New() {
  const go = useNavigate();
  const client = useQueryClient();
  const [choosing, setChoosing] = useState(false);
  const recipe = useRecipe();
  const make = useMutation({
    mutationFn: (body: Schemas["NewBlendBody"]) => answer(api.POST("/api/blends", { body })),
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["blends"] });
      void go(`/cab/${made.id}`, { replace: true });
    },
  });
  const named = useRef("");
  const [asking, setAsking] = useState<"impulses" | "filter">();
  return (
    <div className="h-full overflow-y-auto">
      <Empty title="Give the tap a speaker">
        The bare tap is harsh. One, two or three impulse responses, brought into line, make a speaker of it;
        so does a filter that is set by hand.
        <span className="flex flex-wrap justify-center gap-2 whitespace-nowrap">
          <Button look="main" onClick={() => setAsking("impulses")}>
            New blend …
          </Button>
          <Button onClick={() => setAsking("filter")}>New filter …</Button>
          <Button onClick={() => void go("/cab/library")}>Library</Button>
          <Button onClick={recipe.choose}>Recipe in …</Button>
        </span>
        {recipe.input}
        {[make.error, recipe.error].map((each, i) => each && <Failed key={i} error={each} />)}
      </Empty>
      {asking && (
        <NameIt
          title={asking === "filter" ? "New filter" : "New blend"}
          name={asking === "filter" ? "Filter" : "Blend"}
          yes={asking === "filter" ? "Make it" : "Choose impulse responses …"}
          onName={(name) => {
            named.current = name;
            if (asking === "filter") make.mutate({ name, school: "filter", impulses: [] });
            else setChoosing(true);
          }}
          onClose={() => setAsking(undefined)}
        />
      )}
      {choosing && (
        <FromLibrary
          there={[]}
          most={MOST_PARTS}
          onClose={() => setChoosing(false)}
          onAdd={(ids) => make.mutate({ name: named.current, school: "impulses", impulses: ids })}
        />
      )}
    </div>
  );
}
