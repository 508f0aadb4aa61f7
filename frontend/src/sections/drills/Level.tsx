import { useState } from "react";
import type { Change } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Failed } from "../../parts/states";
import { Knob } from "../bench/Knob";
import { Frame } from "./Frame";
import { useTried } from "./Mend";
import { OnPicture } from "./OnPicture";
import type { Asking } from "./Question";

type Move = Extract<Change, { op: "set" }>;

/** Set what sets the level, so that the peaks come into the window; no meter tells. */
export function Level({ asked, onAnswer, isBusy, told }: Asking) {
  const [moves, setMoves] = useState<Move[]>([]);
  const tried = useTried(asked.id, moves);
  const open = !asked.result;
  const picture = moves.length && tried.data ? tried.data : asked.picture!;
  const move = (changes: Change[]) =>
    setMoves((before) => {
      const set = changes.filter((each): each is Move => each.op === "set");
      const others = before.filter(
        (old) => !set.some((n) => n.unit === old.unit && n.control === old.control),
      );
      return [...others, ...set];
    });
  useKeys({ u: () => setMoves([]) }, open);
  const units = picture.units.filter((unit) => asked.knobs.some((knob) => knob.unit === unit.id));
  return (
    <Frame picture={<OnPicture picture={picture} lit={units.map((u) => u.id)} still />} told={told}>
      <div className="flex flex-1 flex-col gap-3 overflow-y-auto p-4">
        {units.map((unit) => (
          <section key={unit.id} aria-label={unit.name}>
            <h3 className="font-bold">{unit.name}</h3>
            <p className="mb-1 text-[12.5px] text-ink-2">{unit.summary}</p>
            <div className="flex flex-col gap-2">
              {unit.controls
                .filter((view) =>
                  asked.knobs.some((k) => k.unit === unit.id && k.control === view.control.id),
                )
                .map((view) => (
                  <Knob
                    key={view.control.id}
                    unit={unit}
                    view={{
                      ...view,
                      can_be_taped: false,
                      value:
                        moves.find((m) => m.unit === unit.id && m.control === view.control.id)?.value ??
                        view.value,
                    }}
                    locked={false}
                    onChange={move}
                  />
                ))}
            </div>
          </section>
        ))}
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 border-t border-line text-[13px]">
          {asked.given.map((each, n) => (
            <div key={n} className="col-span-2 grid grid-cols-subgrid border-b border-line py-1">
              <dt className="text-ink-2">{each.name}</dt>
              <dd className="text-right font-semibold">{each.value}</dd>
            </div>
          ))}
        </dl>
        {tried.error && <Failed error={tried.error} />}
        <div className="mt-auto flex flex-wrap gap-2">
          <Button
            look="main"
            disabled={moves.length === 0 || isBusy}
            onClick={() => onAnswer({ by: "changes", changes: moves })}
          >
            {moves.length ? "The peaks lie in the window" : "Move something first"}
          </Button>
          {moves.length > 0 && (
            <Button look="quiet" onClick={() => setMoves([])}>
              As it was <Key>u</Key>
            </Button>
          )}
        </div>
      </div>
    </Frame>
  );
}
