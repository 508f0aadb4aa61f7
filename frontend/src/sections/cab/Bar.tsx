import { ChevronDown, Plus } from "lucide-react";
import { Link, useLocation, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { Menu } from "../../parts/Menu";
import { MOST_PARTS, type BlendEdits } from "./useBlend";

export type Asking = "add" | "copy" | "name" | "delete" | "out" | "commit" | "suggest" | "delay";

/** Which blend it is, and what can be done with it. */
export function Bar({
  id,
  blend,
  list,
  inMix,
  onAsk,
  onRecipe,
}: {
  id: number;
  blend: BlendEdits;
  list: Schemas["BlendEntry"][] | undefined;
  inMix: boolean;
  onAsk: (what: Asking) => void;
  onRecipe: () => void;
}) {
  const go = useNavigate();
  const { search } = useLocation();
  const state = blend.state!;
  const doc = blend.doc!;
  const filtered = doc.school === "filter";
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-5 py-2 text-[13px]">
      <select
        aria-label="Blend"
        className="max-w-[240px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
        value={id}
        onChange={(event) => void go(`/cab/${event.target.value}${inMix ? `/mix${search}` : ""}`)}
      >
        {(list ?? [{ id, name: state.name }]).map((each) => (
          <option key={each.id} value={each.id}>
            {each.id === id ? blend.name : each.name}
          </option>
        ))}
      </select>
      {!inMix && (
        <>
          {!filtered && (
            <>
              <Button disabled={doc.parts.length >= MOST_PARTS} onClick={() => onAsk("add")}>
                <Plus size={14} /> From the library <Key>a</Key>
              </Button>
              <Button onClick={() => onAsk("suggest")}>Suggest …</Button>
            </>
          )}
          <Button onClick={() => blend.change({ school: filtered ? "impulses" : "filter" })}>
            {filtered ? "Impulse responses instead" : "Adjustable filter instead"}
          </Button>
          <Menu
            trigger={
              <Button look="quiet">
                More <ChevronDown size={14} />
              </Button>
            }
            items={[
              { label: "New …", run: () => void go("/cab/new") },
              { label: "Copy …", run: () => onAsk("copy") },
              { label: "Rename …", run: () => onAsk("name") },
              { label: "Recipe in …", run: onRecipe },
              { label: "Delete …", run: () => onAsk("delete") },
            ]}
          />
        </>
      )}
      <span className="ml-auto flex items-center gap-2 text-ink-2">
        <Key>u</Key> undo
        <Button look="quiet" onClick={() => onAsk("delay")}>
          Delay …
        </Button>
        <Link className="underline" to={inMix ? `/cab/${id}` : `/cab/${id}/mix`}>
          {inMix ? "Back to the blend" : "In the mix"}
        </Link>
        <Link className="underline" to="/cab/library">
          Library
        </Link>
        <Button disabled={!state.response} onClick={() => onAsk("out")}>
          Files out …
        </Button>
      </span>
    </div>
  );
}
