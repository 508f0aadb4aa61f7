import { useState } from "react";
import type { BenchState, Change } from "../../../api/client";
import { Button } from "../../../parts/controls";
import { Sheet } from "../../../parts/Sheet";
import { SceneForm } from "./SceneForm";
import { SceneTable } from "./SceneTable";
import type { Scene } from "./words";

/** All scenes of a hook-up: held beside each other, added, changed, put on and dropped; every step can be undone. */
export function Scenes({
  state,
  onChange,
  onClose,
}: {
  state: BenchState;
  onChange: (changes: Change[]) => void;
  onClose: () => void;
}) {
  const none = state.analysis.scenes.length === 0;
  const [form, setForm] = useState<{ scene?: Scene } | undefined>(none ? {} : undefined);
  const amiss = state.analysis.findings.filter((finding) => finding.id === "scene-amiss");
  const full = state.scenes_left <= 0;
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={form ? (form.scene ? `Scene “${form.scene.name}”` : "New scene") : "Scenes"}
      about={
        form
          ? "What hands and feet change while the amp is on. All else stays as the hook-up stands."
          : "Levels and checks run over every one of them; the verdict is that of the worst."
      }
    >
      {form ? (
        <SceneForm
          state={state}
          scene={form.scene}
          onClose={() => (none ? onClose() : setForm(undefined))}
          onSave={(changes) => {
            onChange(changes);
            setForm(undefined);
          }}
        />
      ) : (
        <>
          {amiss.map((finding) => (
            <p key={finding.key} role="status" className="mb-2 text-[13px] font-medium text-caution">
              {finding.text}
            </p>
          ))}
          {none ? (
            <p className="text-ink-2">No scenes yet.</p>
          ) : (
            <SceneTable state={state} onChange={onChange} onEdit={(scene) => setForm({ scene })} />
          )}
          <div className="mt-3 flex items-center justify-end gap-2">
            {full && (
              <span className="text-[12.5px] text-ink-2">No more than these: drop one to add another.</span>
            )}
            <Button disabled={full} onClick={() => setForm({})}>
              New scene from what stands
            </Button>
            <Button look="main" onClick={onClose}>
              Done
            </Button>
          </div>
        </>
      )}
    </Sheet>
  );
}
