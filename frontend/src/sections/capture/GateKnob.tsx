import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Gate } from "./useLadders";

const said = (value: number) => `${value > 0 ? "+" : ""}${value}`.replace("-", "−");

/** A control as a gate in the line: dragged, by arrows, [ and ], or typed where its number stands. */
export function GateKnob({
  gate,
  name,
  value,
  height,
  onSet,
}: {
  gate: Gate;
  name: string;
  /** Where it was just put, before the server has answered. */
  value: number;
  height: number;
  onSet: (value: number) => void;
}) {
  const [held, setHeld] = useState<number>();
  const dragging = useRef(false);
  const now = held ?? value;
  const clamp = (v: number) => {
    const stepped = Math.round((v - gate.low) / gate.step) * gate.step + gate.low;
    return Math.min(gate.high, Math.max(gate.low, Number(stepped.toFixed(6))));
  };
  const top = 14;
  const run = height - 28;
  const y = top + (1 - (now - gate.low) / (gate.high - gate.low || 1)) * run;
  const at = (event: PointerEvent<HTMLElement>) => {
    const part = 1 - (event.clientY - event.currentTarget.getBoundingClientRect().top - top) / run;
    return clamp(gate.low + part * (gate.high - gate.low));
  };
  const onKey = (event: KeyboardEvent) => {
    const by: Record<string, number> = {
      ArrowUp: gate.step,
      ArrowRight: gate.step,
      "]": gate.step,
      ArrowDown: -gate.step,
      ArrowLeft: -gate.step,
      "[": -gate.step,
      PageUp: 6,
      PageDown: -6,
    };
    const to =
      { Home: gate.low, End: gate.high }[event.key] ??
      (by[event.key] ? clamp(now + by[event.key]!) : undefined);
    if (to === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    if (to !== value) onSet(to);
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-orientation="vertical"
      aria-valuemin={gate.low}
      aria-valuemax={gate.high}
      aria-valuenow={now}
      aria-valuetext={`${said(now)} dB${gate.taped ? ", not moved by best setting" : ""}`}
      title={`${name}: ${said(now)} dB`}
      onKeyDown={onKey}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        dragging.current = true;
        setHeld(at(event));
      }}
      onPointerMove={(event) => dragging.current && setHeld(at(event))}
      onPointerUp={(event) => {
        if (!dragging.current) return;
        dragging.current = false;
        const to = at(event);
        setHeld(undefined);
        if (to !== value) onSet(to);
      }}
      onPointerCancel={() => {
        dragging.current = false;
        setHeld(undefined);
      }}
      className="absolute inset-y-0 left-1/2 w-[26px] -translate-x-1/2 cursor-ns-resize touch-none"
    >
      <span className="absolute inset-y-1 left-1/2 w-[5px] -translate-x-1/2 rounded bg-ink" />
      <span
        className={`absolute left-1/2 flex h-[26px] w-[20px] -translate-x-1/2 -translate-y-1/2 flex-col items-center justify-center gap-[3px] rounded-md border-2 border-ink bg-sheet ${gate.taped ? "taped" : ""}`}
        style={{ top: y }}
      >
        <i className="h-[1.5px] w-[9px] bg-ink" />
        <i className="h-[1.5px] w-[9px] bg-ink" />
        <i className="h-[1.5px] w-[9px] bg-ink" />
      </span>
      {held !== undefined && (
        <span
          className="absolute left-full ml-1 -translate-y-1/2 rounded bg-ink px-1.5 py-0.5 text-[12px] whitespace-nowrap text-paper"
          style={{ top: y }}
        >
          {said(held)} dB
        </span>
      )}
    </div>
  );
}
