import { Button } from "../../parts/controls";
import { Part } from "../../parts/Part";
import { bringing, useBringing } from "./bringing";

const DOING = { bringing: "Bringing in", inspecting: "Inspecting" };

/** Files on their way in: how far each is, what was refused and why, and a way to stop. */
export function Progress({ onShow }: { onShow: (take: number) => void }) {
  const all = useBringing();
  if (all.length === 0) return null;
  const over = all.every((each) => ["done", "refused", "stopped"].includes(each.step));
  return (
    <section
      aria-label="Files on their way in"
      className="shrink-0 border-b border-line bg-sheet px-5 py-2 text-[13px]"
    >
      <ul className="flex max-h-[132px] flex-col gap-1 overflow-y-auto">
        {all.map((each) => (
          <li key={each.id}>
            {each.step === "bringing" || each.step === "inspecting" ? (
              <Part
                what={`${DOING[each.step]} ${each.file.name}`}
                part={each.part}
                onStop={() => bringing.stop(each.id)}
              />
            ) : each.step === "waiting" ? (
              <span className="flex items-center gap-3 text-ink-2">
                {each.file.name} waits{" "}
                <Button look="quiet" className="!py-0" onClick={() => bringing.stop(each.id)}>
                  Stop
                </Button>
              </span>
            ) : each.step === "refused" ? (
              <span role="alert" className="text-stop">
                <b>{each.file.name}</b> was not taken. {each.error?.problems.join(" ")}
              </span>
            ) : each.step === "stopped" ? (
              <span className="text-ink-2">{each.file.name} was stopped; nothing of it was kept.</span>
            ) : (
              <span role="status">
                <b>{each.file.name}</b> is take {each.take!.number}.{" "}
                <button
                  type="button"
                  className="min-h-[24px] text-deep underline"
                  onClick={() => onShow(each.take!.id)}
                >
                  Show it
                </button>
              </span>
            )}
          </li>
        ))}
      </ul>
      {over && (
        <Button look="quiet" className="mt-1 !px-0" onClick={() => bringing.clear()}>
          Put the list away
        </Button>
      )}
    </section>
  );
}
