import { useState } from "react";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import type { Asking } from "./Question";
import { OnPicture } from "./OnPicture";
import { Frame } from "./Frame";

/** Point at what is wrong, in the picture or in the list beside it. */
export function Spot({ asked, onAnswer, isBusy, told }: Asking) {
  const [chosen, setChosen] = useState<string>();
  const open = !asked.result;
  const walk = (by: number) => {
    const at = asked.targets.findIndex((each) => each.id === chosen);
    const next = asked.targets[Math.min(asked.targets.length - 1, Math.max(0, at + by))];
    if (!next) return;
    setChosen(next.id);
    document.querySelector<HTMLElement>(`[data-target="${CSS.escape(next.id)}"]`)?.focus();
  };
  useKeys({ j: () => walk(1), k: () => walk(-1), ArrowDown: () => walk(1), ArrowUp: () => walk(-1) }, open);
  const lit = open ? (chosen ? [chosen] : []) : (asked.result?.at ?? []);
  return (
    <Frame
      picture={
        <OnPicture
          picture={asked.picture!}
          lit={lit}
          still
          purpose="point at it"
          onPoint={(id) => open && setChosen(id)}
        />
      }
      told={told}
    >
      <p className="px-4 pt-3 pb-1 text-[13px] text-ink-2">
        What stands and lies there. Point in the picture, or here with <Key>j</Key> <Key>k</Key> and
        <Key>Enter</Key>.
      </p>
      <ul className="min-h-0 flex-1 overflow-y-auto px-2 pb-2" aria-label="To point at">
        {asked.targets.map((each) => (
          <li key={each.id}>
            <button
              type="button"
              data-target={each.id}
              aria-pressed={each.id === chosen}
              onClick={() => setChosen(each.id)}
              onKeyDown={(event) => {
                if (event.key !== "Enter" || each.id !== chosen || isBusy) return;
                event.preventDefault();
                onAnswer({ by: "pointing", at: each.id });
              }}
              className={`min-h-[24px] w-full rounded px-2 py-1 text-left hover:bg-faint ${each.id === chosen ? "bg-shoal" : ""}`}
            >
              <b className="font-semibold">{each.name}</b>{" "}
              <span className="text-[12.5px] text-ink-2">{each.what}</span>
            </button>
          </li>
        ))}
      </ul>
      <div className="border-t border-line p-3">
        <Button
          look="main"
          disabled={!chosen || isBusy}
          onClick={() => chosen && onAnswer({ by: "pointing", at: chosen })}
        >
          {chosen
            ? `It is ${asked.targets.find((each) => each.id === chosen)?.name ?? ""}`
            : "Point at something first"}
        </Button>
      </div>
    </Frame>
  );
}
