import { SECTIONS } from "../sections";
import { Key } from "./controls";
import { Sheet } from "./Sheet";

const KEYS: [string[], string][] = [
  [["/"], "find anything"],
  [["?"], "this list"],
  ...SECTIONS.map((s): [string[], string] => [["g", s.key], `go to ${s.name}`]),
  [
    ["j", "k"],
    "next, previous finding (Bench), step (Run sheet), take (Log), block (Plan), thing to point at (Drills)",
  ],
  [["1", "…", "9"], "carry out that fix (Bench, Capture), make room for a part (Plan)"],
  [["[", "]"], "previous, next position of the focused control; section (Compare)"],
  [["t"], "tape the focused control where it stands, or take the tape off (Bench)"],
  [["e"], "to the field in the Locker: what a finding asks for, or the unit at hand (Bench); Esc leads back"],
  [["u"], "undo; Ctrl+Z as well (Bench, Compare, Cab blend, Plan, What is wrong, Drills)"],
  [["Shift", "u"], "redo (Bench, Compare, Cab blend, Plan)"],
  [["a"], "add a unit (Bench, Locker), from the library (Cab blend)"],
  [["o"], "open another hook-up (Bench)"],
  [["s"], "scenes of the hook-up (Bench)"],
  [["v"], "overview, and back to close up (Bench)"],
  [["w"], "what if: hold changes and compare (Bench)"],
  [["f"], "find me a hook-up (Bench)"],
  [["b"], "best setting (Capture); the bare tap, in the mix guitar or backing alone (Cab blend)"],
  [["space"], "play and stop; ← → move, + − look closer, 0 the whole, l a loop (at a waveform)"],
  [["1"], "rank the short list in the mix (Cab blend)"],
  [["←", "→"], "slide a strip by 0.01 ms, with Shift by 0.1; + − look closer (Cab blend)"],
  [["a", "…", "d"], "hear that recording, without a gap (Compare)"],
  [["x"], "carry out the step at hand; the space bar as well (Run sheet)"],
  [["f"], "fold the other steps, or show them (Run sheet)"],
  [["w"], "what is wrong? (Run sheet)"],
  [["y", "n", "c"], "yes, no, cannot tell (What is wrong)"],
  [["n"], "new take (Log)"],
  [["l"], "lay it out (Plan)"],
  [["p"], "pin the block where it lies, or let it go (Plan)"],
  [["b"], "begin ten (Drills)"],
  [["1", "…", "6"], "a verdict, a reason, a step, the sound it is (Drills); a b listen"],
  [["h", "n", "m"], "hint, next, the same a little changed (Drills)"],
  [["Esc"], "close"],
];

export function KeyHelp({ onClose }: { onClose: () => void }) {
  return (
    <Sheet
      open
      onClose={onClose}
      title="Keys"
      about="Tab moves, Enter presses. Everything works without a mouse."
    >
      <dl className="grid grid-cols-[120px_1fr] gap-y-2">
        {KEYS.map(([keys, does]) => (
          <div key={does} className="contents">
            <dt className="flex gap-1">
              {keys.map((k) => (
                <Key key={k}>{k}</Key>
              ))}
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Sheet>
  );
}
