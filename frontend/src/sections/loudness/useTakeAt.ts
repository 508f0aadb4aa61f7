import { useCallback, useEffect, useRef, useState } from "react";
import { ask } from "../../api/client";

const FADE_S = 0.012;

interface Playing {
  context: AudioContext;
  gain: GainNode;
  source: AudioBufferSourceNode;
}

/** Plays one sound round and round, so many dB down; a change of level leaves no gap. */
export function useTakeAt(url: string) {
  const [at, setAt] = useState<number>();
  const [failed, setFailed] = useState(false);
  const now = useRef<Playing>(undefined);
  const wanted = useRef<number>(undefined);

  const stop = useCallback(() => {
    wanted.current = undefined;
    now.current?.source.stop();
    void now.current?.context.close();
    now.current = undefined;
    setAt(undefined);
  }, []);
  useEffect(() => stop, [stop, url]);

  const hear = useCallback(
    async (downDb: number) => {
      const begun = wanted.current !== undefined;
      wanted.current = downDb;
      setAt(downDb);
      setFailed(false);
      const level = () => 10 ** (-(wanted.current ?? 0) / 20);
      if (now.current) {
        now.current.gain.gain.setTargetAtTime(level(), now.current.context.currentTime, FADE_S / 3);
        return;
      }
      if (begun) return; // still being read: it begins at the level wished last
      try {
        const response = await ask(url);
        if (!response.ok) throw new Error(url);
        const context = new AudioContext();
        const buffer = await context.decodeAudioData(await response.arrayBuffer());
        if (wanted.current === undefined) return void context.close();
        const gain = context.createGain();
        gain.gain.value = level();
        gain.connect(context.destination);
        const source = context.createBufferSource();
        source.buffer = buffer;
        source.loop = true;
        source.connect(gain);
        source.start();
        now.current = { context, gain, source };
      } catch {
        stop();
        setFailed(true);
      }
    },
    [url, stop],
  );
  return { at, failed, hear, stop };
}
