import { useCallback, useEffect, useRef, useState } from "react";
import { ask } from "../../api/client";

const FADE_S = 0.012;

interface Playing {
  context: AudioContext;
  gains: GainNode[];
  sources: AudioBufferSourceNode[];
  began: number;
}

/** Plays sounds of the same length side by side, by their addresses, and lets one through: changing over leaves no gap. */
export function usePlayer(files: string[]) {
  const [buffers, setBuffers] = useState<AudioBuffer[]>();
  const [failed, setFailed] = useState(false);
  const [at, setAt] = useState(0);
  const [isPlaying, setPlaying] = useState(false);
  const [seconds, setSeconds] = useState(0);
  const now = useRef<Playing>(undefined);
  const key = files.join("|");

  const stop = useCallback(() => {
    now.current?.sources.forEach((s) => s.stop());
    void now.current?.context.close();
    now.current = undefined;
    setPlaying(false);
    setSeconds(0);
  }, []);

  useEffect(() => {
    let gone = false;
    const load = async () => {
      const decoder = new OfflineAudioContext(1, 1, 48000);
      const read = async (file: string) => {
        const response = await ask(file);
        if (!response.ok) throw new Error(file);
        return decoder.decodeAudioData(await response.arrayBuffer());
      };
      const found = await Promise.all(key.split("|").filter(Boolean).map(read));
      if (!gone) setBuffers(found);
    };
    setBuffers(undefined);
    setFailed(false);
    load().catch(() => !gone && setFailed(true));
    return () => {
      gone = true;
      stop();
    };
  }, [key, stop]);

  useEffect(() => {
    if (!isPlaying) return;
    const timer = window.setInterval(() => {
      const { context, began } = now.current ?? {};
      if (context && began !== undefined) setSeconds(context.currentTime - began);
    }, 100);
    return () => window.clearInterval(timer);
  }, [isPlaying]);

  const hear = useCallback((next: number) => {
    setAt(next);
    const { context, gains } = now.current ?? {};
    if (!context) return;
    gains!.forEach((gain, i) =>
      gain.gain.setTargetAtTime(i === next ? 1 : 0, context.currentTime, FADE_S / 3),
    );
  }, []);

  const play = useCallback(
    (first = at) => {
      if (!buffers?.length) return;
      stop();
      const context = new AudioContext();
      const began = context.currentTime + 0.05;
      const gains = buffers.map((_, i) => {
        const gain = context.createGain();
        gain.gain.value = i === first ? 1 : 0;
        gain.connect(context.destination);
        return gain;
      });
      const sources = buffers.map((buffer, i) => {
        const source = context.createBufferSource();
        source.buffer = buffer;
        source.loop = true;
        source.connect(gains[i]!);
        source.start(began);
        return source;
      });
      now.current = { context, gains, sources, began };
      setAt(first);
      setPlaying(true);
    },
    [at, buffers, stop],
  );

  const length = buffers?.[0]?.duration ?? 0;
  return {
    ready: buffers !== undefined && buffers.length > 0,
    failed,
    at,
    hear,
    play,
    stop,
    isPlaying,
    /** Where in the take it is, s. */
    place: length ? Math.max(0, seconds) % length : 0,
    length,
  };
}

export type Player = ReturnType<typeof usePlayer>;
