import { Ellipsis } from "lucide-react";
import type { BenchState, Change } from "../../../api/client";
import { Button } from "../../../parts/controls";
import { VerdictMark } from "../../../parts/Mark";
import { Menu } from "../../../parts/Menu";
import { asItStands, keyOf, movable, valueWords, type Scene } from "./words";
import { calledWithin } from "../called";

const CELL = "border-t border-line px-2 py-1.5 text-left align-top";

/** What every scene sets, beside each other and beside what stands, with its verdict and its levels. */
export function SceneTable({
  state,
  onChange,
  onEdit,
}: {
  state: BenchState;
  onChange: (changes: Change[]) => void;
  onEdit: (scene: Scene) => void;
}) {
  const { scenes, lines, without_scenes: alone } = state.analysis;
  const every = movable(state);
  const rows = every.filter((m) =>
    scenes.some(({ scene }) =>
      scene.settings.some((at) => keyOf(at) === keyOf({ unit: m.unit, control: m.control.id })),
    ),
  );
  const units = new Map(state.units.map((u) => [u.id, u.name]));
  const knobs = [...new Set(scenes.flatMap(({ scene }) => scene.knobs.map((k) => k.name)))];
  const level = (dbfs: number | null | undefined) =>
    dbfs == null ? "not known" : `${dbfs < 0 ? "−" : ""}${Math.abs(dbfs).toFixed(1)} dBFS`;
  const ordered = scenes.some(({ scene }) => scene.order.length > 0);
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-[13px]">
        <thead>
          <tr>
            <td />
            <th scope="col" className="px-2 py-1 text-left font-semibold">
              As it stands
            </th>
            {scenes.map(({ scene, stands }) => (
              <th
                key={scene.name}
                scope="col"
                className="min-w-[110px] px-2 py-1 text-left align-bottom font-semibold"
              >
                <span className="flex items-start justify-between gap-1">
                  {scene.name}
                  <Menu
                    trigger={
                      <Button
                        look="quiet"
                        className="!px-1 !py-0.5"
                        aria-label={`More for scene “${scene.name}”`}
                      >
                        <Ellipsis size={15} />
                      </Button>
                    }
                    items={[
                      ...(stands
                        ? []
                        : [
                            { label: "Put it on", run: () => onChange([{ op: "put_on", name: scene.name }]) },
                          ]),
                      { label: "Change …", run: () => onEdit(scene) },
                      {
                        label: "Set it to what stands now",
                        run: () =>
                          onChange([{ op: "scene", scene: asItStands(scene, state), was: scene.name }]),
                      },
                      { label: "Drop it", run: () => onChange([{ op: "drop_scene", name: scene.name }]) },
                    ]}
                  />
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row" className={`${CELL} font-normal text-ink-2`}>
              Verdict
            </th>
            <td className={CELL}>
              <VerdictWords {...alone} />
            </td>
            {scenes.map(({ scene, verdict: its }) => (
              <td key={scene.name} className={CELL}>
                <VerdictWords {...its} />
              </td>
            ))}
          </tr>
          {lines.map((line, at) => (
            <tr key={line.name}>
              <th scope="row" className={`${CELL} font-normal text-ink-2`}>
                Peaks at {line.name}
              </th>
              <td className={`${CELL} tabular-nums`}>{level(line.dbfs)}</td>
              {scenes.map(({ scene, lines: its }) => (
                <td key={scene.name} className={`${CELL} tabular-nums`}>
                  {level(its[at]?.dbfs)}
                </td>
              ))}
            </tr>
          ))}
          {rows.map((m) => (
            <tr key={keyOf({ unit: m.unit, control: m.control.id })}>
              <th scope="row" className={`${CELL} font-normal text-ink-2`}>
                {m.name}: {calledWithin(m.control)}
              </th>
              <td className={CELL}>{valueWords(m.control, m.value)}</td>
              {scenes.map(({ scene }) => {
                const at = scene.settings.find((s) => s.unit === m.unit && s.control === m.control.id);
                return (
                  <td
                    key={scene.name}
                    className={`${CELL} ${at && at.value !== m.value ? "font-semibold" : ""}`}
                  >
                    {at ? valueWords(m.control, at.value) : <span className="text-ink-2">as it stands</span>}
                  </td>
                );
              })}
            </tr>
          ))}
          {ordered && (
            <tr>
              <th scope="row" className={`${CELL} font-normal text-ink-2`}>
                Pedals in the order
              </th>
              <td className={CELL}>
                {state.in_series
                  .flat()
                  .map((id) => units.get(id))
                  .join(", ")}
              </td>
              {scenes.map(({ scene }) => (
                <td key={scene.name} className={`${CELL} ${scene.order.length ? "font-semibold" : ""}`}>
                  {scene.order.map((id) => units.get(id) ?? id).join(", ") || (
                    <span className="text-ink-2">as it stands</span>
                  )}
                </td>
              ))}
            </tr>
          )}
          {knobs.map((name) => (
            <tr key={name}>
              <th scope="row" className={`${CELL} font-normal text-ink-2`}>
                {name}
              </th>
              <td className={CELL} />
              {scenes.map(({ scene }) => (
                <td key={scene.name} className={CELL}>
                  {scene.knobs.find((k) => k.name === name)?.value}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const VerdictWords = ({ severity, words }: { severity: string; words: string }) => (
  <span className="flex items-start gap-1.5 font-semibold">
    <VerdictMark severity={severity} size={16} />
    {words}
  </span>
);
