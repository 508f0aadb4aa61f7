import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { tellOtherWindows } from "./elsewhere";

export type Timer = Schemas["Timer"];

export const TIMERS = ["timers"];
const TONE = "low-tide-tone";
const ASKED_AGAIN_MS = 15_000;

function tone() {
  const context = new AudioContext();
  const gain = context.createGain();
  const wave = context.createOscillator();
  wave.frequency.value = 660;
  gain.gain.setValueAtTime(0.0001, context.currentTime);
  gain.gain.exponentialRampToValueAtTime(0.12, context.currentTime + 0.03);
  gain.gain.exponentialRampToValueAtTime(0.0001, context.currentTime + 0.6);
  wave.connect(gain).connect(context.destination);
  wave.start();
  wave.stop(context.currentTime + 0.65);
  wave.onended = () => void context.close();
}

/** The server's timers, counted down between its answers by this device's own steady clock, and a tone at their end. */
export function useTimers() {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: TIMERS,
    queryFn: async () => ({ ...(await answer(api.GET("/api/timers"))), heard: performance.now() }),
    refetchInterval: ASKED_AGAIN_MS,
  });
  const [now, setNow] = useState(() => performance.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(performance.now()), 500);
    return () => clearInterval(timer);
  }, []);
  const [sounds, setSounds] = useState(() => localStorage.getItem(TONE) === "on");
  const running = (query.data?.timers ?? []).map((each) => ({
    ...each,
    left: each.left == null ? null : each.left - Math.max(0, now - query.data!.heard) / 1000,
  }));
  const before = useRef(new Map<number, number>());
  useEffect(() => {
    const ended = running.some((t) => t.left !== null && t.left <= 0 && (before.current.get(t.id) ?? 0) > 0);
    before.current = new Map(running.map((t) => [t.id, t.left ?? 0]));
    if (ended && sounds) tone();
  });
  const stop = useMutation({
    mutationFn: (timer: Timer) =>
      answer(api.DELETE("/api/timers/{timer_id}", { params: { path: { timer_id: timer.id } } })),
    onSettled: () => {
      void client.invalidateQueries({ queryKey: TIMERS });
      tellOtherWindows(TIMERS);
    },
  });
  return {
    running,
    stop,
    sounds,
    turn: () => {
      const next = !sounds;
      localStorage.setItem(TONE, next ? "on" : "off");
      setSounds(next);
      if (next) tone();
    },
  };
}

/** '12:05', '1 h 20 min': what is left of a timer. */
export function left(seconds: number): string {
  const whole = Math.ceil(seconds);
  if (whole >= 3600) return `${Math.floor(whole / 3600)} h ${Math.floor((whole % 3600) / 60)} min`;
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
