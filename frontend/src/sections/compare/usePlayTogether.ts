import { useCallback, useEffect, useRef, useState } from "react";
import { ask } from "../../api/client";
import type { Part } from "./useComparison";

const FADE_S = 0.01;
const BEGIN_S = 0.05;

interface Playing {
  context: AudioContext;
  gains: Map<string, GainNode>;
  began: number;
  part: Part;
  gone: boolean;
}

/** So many sounds are kept ready; what is heard and what was heard before it are among them. */
const MOST_READY = 6;

function forget(playing: Playing, name: string) {
  playing.gains.get(name)?.disconnect();
  playing.gains.delete(name);
}

/** Plays a part of several sounds side by side, over and over, and lets one through: changing over leaves no gap.
 *
 * `url` says where a part of a sound is fetched; sounds are called by any names. */
export function usePlayTogether(url: (name: string, part: Part) => string) {
  const [isPlaying, setPlaying] = useState(false);
  const [failed, setFailed] = useState(false);
  const [heard, setHeard] = useState<string>();
  const now = useRef<Playing>(undefined);
  const asked = useRef<string>(undefined);
  const address = useRef(url);
  address.current = url;

  const stop = useCallback(() => {
    const playing = now.current;
    now.current = undefined;
    setPlaying(false);
    if (!playing) return;
    playing.gone = true;
    for (const gain of playing.gains.values())
      gain.gain.setTargetAtTime(0, playing.context.currentTime, FADE_S / 3);
    window.setTimeout(() => void playing.context.close(), 40);
  }, []);

  const hear = useCallback((name: string) => {
    setHeard(name);
    const playing = now.current;
    if (!playing) return;
    const at = playing.context.currentTime;
    for (const [each, { gain }] of playing.gains) {
      gain.cancelScheduledValues(at);
      gain.setValueAtTime(gain.value, at);
      gain.linearRampToValueAtTime(each === name ? 1 : 0, at + FADE_S);
    }
  }, []);

  const play = useCallback(
    async (names: string[], first: string, part: Part) => {
      stop();
      setFailed(false);
      setHeard(first);
      const context = new AudioContext({ sampleRate: 48000 });
      const playing: Playing = { context, gains: new Map(), began: Infinity, part, gone: false };
      now.current = playing;
      setPlaying(true);
      try {
        const buffers = await Promise.all(
          names.map(async (name) => {
            const response = await ask(address.current(name, part));
            if (!response.ok) throw new Error(name);
            return context.decodeAudioData(await response.arrayBuffer());
          }),
        );
        if (playing.gone) return;
        playing.began = context.currentTime + BEGIN_S;
        names.forEach((name, i) => {
          const gain = context.createGain();
          gain.gain.value = 0;
          gain.connect(context.destination);
          const source = context.createBufferSource();
          source.buffer = buffers[i]!;
          source.loop = true;
          source.connect(gain);
          source.start(playing.began);
          playing.gains.set(name, gain);
        });
        hear(first);
      } catch {
        if (!playing.gone) {
          setFailed(true);
          stop();
        }
      }
    },
    [stop, hear],
  );

  /** Lets a sound that was not fetched yet take over where the one before is; of several asked for, the last one. */
  const takeOver = useCallback(
    async (name: string) => {
      const playing = now.current;
      if (!playing) return;
      asked.current = name;
      try {
        if (!playing.gains.has(name)) {
          const response = await ask(address.current(name, playing.part));
          if (!response.ok) throw new Error(name);
          const buffer = await playing.context.decodeAudioData(await response.arrayBuffer());
          if (playing.gone || asked.current !== name) return;
          const gain = playing.context.createGain();
          gain.gain.value = 0;
          gain.connect(playing.context.destination);
          const source = playing.context.createBufferSource();
          source.buffer = buffer;
          source.loop = true;
          source.connect(gain);
          const at = playing.context.currentTime + FADE_S;
          source.start(at, Math.max(0, at - playing.began) % buffer.duration);
          playing.gains.set(name, gain);
          for (const old of [...playing.gains.keys()].slice(0, -MOST_READY)) forget(playing, old);
        }
        hear(name);
      } catch {
        if (!playing.gone && asked.current === name) setFailed(true);
      }
    },
    [hear],
  );

  /** Where it is, s; undefined while nothing is heard. */
  const place = useCallback(() => {
    const playing = now.current;
    if (!playing || playing.began === Infinity) return undefined;
    const { start, stop: end } = playing.part;
    return start + (Math.max(0, playing.context.currentTime - playing.began) % (end - start));
  }, []);

  useEffect(() => stop, [stop]);
  return { play, stop, hear, takeOver, heard, place, isPlaying, failed };
}

export type Together = ReturnType<typeof usePlayTogether>;
