import { useCallback, useEffect, useRef, useState } from "react";
import { OFFLINE, Refusal, type Schemas } from "../../api/client";
import { readLines } from "../../parts/ndjson";

export type Rendered = Schemas["Rendered"];
type Line = Schemas["RenderLine"];

/** A rendering on the server: its progress, its tracks, and a way to stop it. */
export function useRender(hookup: string) {
  const [progress, setProgress] = useState<Schemas["RenderProgress"]>();
  const [rendered, setRendered] = useState<Rendered>();
  const [error, setError] = useState<Error>();
  const [running, setRunning] = useState(false);
  const abort = useRef<AbortController>(undefined);
  useEffect(() => () => abort.current?.abort(), []);

  const start = useCallback(
    async (body: unknown) => {
      abort.current?.abort();
      const control = new AbortController();
      abort.current = control;
      setRunning(true);
      setError(undefined);
      setRendered(undefined);
      setProgress(undefined);
      try {
        await readLines<Line>(`/api/hookups/${hookup}/feel/render`, body, control.signal, (line) => {
          if (line.progress) setProgress(line.progress);
          if (line.rendered) setRendered(line.rendered);
        });
      } catch (problem) {
        if (!control.signal.aborted) setError(problem instanceof Refusal ? problem : OFFLINE);
      } finally {
        if (abort.current === control) setRunning(false);
      }
    },
    [hookup],
  );
  const stop = useCallback(() => {
    abort.current?.abort();
    setRunning(false);
  }, []);
  return { start, stop, running, progress, rendered, error };
}
