import { useCallback, useEffect, useRef, useState } from "react";
import { ask } from "../../api/client";

/** Seconds fetched and scheduled at one time, and how far ahead of the ear they are. */
const PIECE_S = 6;
const AHEAD_S = 5;
const BEGIN_S = 0.06;
const FADE_S = 0.008;

export interface Loop {
  start: number;
  stop: number;
}

interface Playing {
  context: AudioContext;
  gain: GainNode;
  /** Context time at which the place `from` of the take is heard. */
  began: number;
  from: number;
  loop?: Loop;
  gone: boolean;
}

async function fetched(take: number, start: number, stop: number, context: BaseAudioContext) {
  const response = await ask(`/api/takes/${take}/sound?start=${start}&stop=${stop}`);
  if (!response.ok) throw new Error("sound");
  return context.decodeAudioData(await response.arrayBuffer());
}

/** Plays a take from anywhere, however long it is: pieces of it follow each other without a gap. */
export function usePlay(take: number | undefined, seconds: number, rate: number) {
  const [isPlaying, setPlaying] = useState(false);
  const [failed, setFailed] = useState(false);
  const now = useRef<Playing>(undefined);

  const stop = useCallback(() => {
    const playing = now.current;
    now.current = undefined;
    setPlaying(false);
    if (!playing) return;
    playing.gone = true;
    playing.gain.gain.setTargetAtTime(0, playing.context.currentTime, FADE_S / 3);
    window.setTimeout(() => void playing.context.close(), 40);
  }, []);

  /** Where in the take it is, s; undefined while nothing plays. */
  const place = useCallback(() => {
    const playing = now.current;
    if (!playing) return undefined;
    const on = Math.max(0, playing.context.currentTime - playing.began);
    const { loop, from } = playing;
    return loop ? loop.start + (on % (loop.stop - loop.start)) : Math.min(seconds, from + on);
  }, [seconds]);

  const play = useCallback(
    async (from: number, loop?: Loop) => {
      stop();
      if (take === undefined) return;
      setFailed(false);
      const context = new AudioContext({ sampleRate: rate });
      const gain = context.createGain();
      gain.connect(context.destination);
      const start = loop ? loop.start : from >= seconds - 0.01 ? 0 : from;
      const playing: Playing = { context, gain, began: Infinity, from: start, loop, gone: false };
      now.current = playing;
      setPlaying(true);
      const put = (buffer: AudioBuffer, at: number, again: boolean) => {
        const source = context.createBufferSource();
        source.buffer = buffer;
        source.loop = again;
        source.connect(gain);
        source.start(at);
        return source;
      };
      try {
        if (loop) {
          const buffer = await fetched(take, loop.start, loop.stop, context);
          if (playing.gone) return;
          playing.began = context.currentTime + BEGIN_S;
          put(buffer, playing.began, true);
          return;
        }
        let at = start;
        while (at < seconds - 1e-6) {
          // Whole samples: what follows begins where this one ended.
          const until = Math.min(seconds, Math.round((at + PIECE_S) * rate) / rate);
          const buffer = await fetched(take, at, until, context);
          if (playing.gone) return;
          if (playing.began === Infinity) playing.began = context.currentTime + BEGIN_S;
          const source = put(buffer, playing.began + (at - start), false);
          at = until;
          if (at >= seconds - 1e-6) source.onended = () => now.current === playing && stop();
          while (!playing.gone && playing.began + (at - start) - context.currentTime > AHEAD_S)
            await new Promise((done) => window.setTimeout(done, 200));
          if (playing.gone) return;
        }
      } catch {
        if (!playing.gone) {
          setFailed(true);
          stop();
        }
      }
    },
    [take, seconds, rate, stop],
  );

  useEffect(() => stop, [take, stop]);
  return { play, stop, place, isPlaying, failed };
}

export type Play = ReturnType<typeof usePlay>;
