import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import type { Doc } from "./schema";

/** Typical units to begin a form with. */
export function useStarts() {
  return useQuery({
    queryKey: ["starts"],
    queryFn: () => answer(api.GET("/api/starts")),
    staleTime: Infinity,
  });
}

/** What a new unit of a kind may begin with; every figure of it is marked typical. */
export function Begin({ kind, onChoose }: { kind: string; onChoose: (doc: Doc) => void }) {
  const some = (useStarts().data?.starts ?? []).filter((start) => start.kind === kind);
  if (some.length === 0) return null;
  return (
    <p className="mb-3 flex flex-wrap items-center gap-1.5 text-[13px]">
      <span className="text-ink-2">Begin with a typical one:</span>
      {some.map((start) => (
        <Button key={start.name} className="!py-0.5" onClick={() => onChoose(start.doc as Doc)}>
          {start.name}
        </Button>
      ))}
    </p>
  );
}
