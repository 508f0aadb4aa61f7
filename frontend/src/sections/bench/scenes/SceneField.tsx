import { Field, FIELD } from "../../../parts/controls";
import { useHookups } from "../HookupMenu";

/** The scene a take is of: the one that was chosen, or else the one its hook-up is set like. */
export function useScene(hookup: string, chosen: string | undefined) {
  const entry = useHookups().data?.entries.find((each) => each.id === hookup);
  const there = entry?.scenes ?? [];
  return {
    there,
    scene: chosen !== undefined && (!chosen || there.includes(chosen)) ? chosen : (entry?.scene ?? ""),
  };
}

/** Which scene of its hook-up a take is of; nothing where it has none. */
export function SceneField({
  hookup,
  chosen,
  problem,
  onChoose,
}: {
  hookup: string;
  chosen: string | undefined;
  problem?: string;
  onChoose: (scene: string) => void;
}) {
  const { there, scene } = useScene(hookup, chosen);
  if (there.length === 0) return null;
  return (
    <Field label="Scene" problem={problem}>
      <select className={FIELD} value={scene} onChange={(event) => onChoose(event.target.value)}>
        <option value="">none: as it stands</option>
        {there.map((name) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
      </select>
    </Field>
  );
}
