import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { answer, api, OFFLINE, Refusal, type Schemas } from "../../api/client";
import { readLines } from "../../parts/ndjson";

const aboard = () => window.location.assign("/bench");

/** Back from the lightship; the page is read anew, since everything in it is of other data. */
export const useWayBack = () =>
  useMutation({ mutationFn: () => answer(api.DELETE("/api/lightship")), onSuccess: aboard });

/** Goes to the lightship, which is laid out meanwhile: `part` says how far it is. Who stops is at home as before. */
export function useLightship() {
  const stopped = useRef(new AbortController());
  const [part, setPart] = useState<number>();
  const going = useMutation({
    mutationFn: async () => {
      stopped.current = new AbortController();
      setPart(0);
      let done = 0;
      await readLines<Schemas["VisitLine"]>("/api/lightship", {}, stopped.current.signal, (line) => {
        done = line.part ?? done;
        setPart(done);
      }).catch((error: unknown) => {
        if (stopped.current.signal.aborted) return;
        throw error instanceof Refusal ? error : OFFLINE;
      });
      if (done < 1 && !stopped.current.signal.aborted) throw OFFLINE;
      return done === 1;
    },
    onSuccess: (arrived) => arrived && aboard(),
    onSettled: () => setPart(undefined),
  });
  return { part, error: going.error, go: () => going.mutate(), stop: () => stopped.current.abort() };
}
