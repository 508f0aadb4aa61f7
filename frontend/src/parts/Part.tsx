import { Button } from "./controls";

/** How much of something long is done, and a way to stop it. */
export function Part({ what, part, onStop }: { what: string; part: number; onStop?: () => void }) {
  return (
    <div className="flex items-center gap-3" role="status">
      <progress className="h-2 flex-1" value={part} aria-label={what} />
      <span className="text-[13px] text-ink-2">
        {what}, {Math.round(100 * part)} %
      </span>
      {onStop && <Button onClick={onStop}>Stop</Button>}
    </div>
  );
}
