import { ChevronDown, Upload } from "lucide-react";
import { useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { Refusal } from "../../api/client";
import { Confirm } from "../../parts/Confirm";
import { Button, Field, FIELD } from "../../parts/controls";
import { Mark } from "../../parts/Mark";
import { Menu } from "../../parts/Menu";
import { NameIt } from "../../parts/NameIt";
import { Empty } from "../../parts/states";
import { useHookups } from "../bench/HookupMenu";
import { lengthWords } from "./clock";
import { PartForm } from "./PartForm";
import { ofProject, partOf, type Part, type Plan, type PlanEdits } from "./usePlan";

const EXAMPLE = "Cue 3 lead, loud, 40 min, after main";

/** Parts typed or pasted, a line each; what is not understood says so, and nothing of it is taken. */
function Lines({ edits }: { edits: PlanEdits }) {
  const [text, setText] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const { lines } = edits;
  const add = (said: string) => said.trim() && lines.mutate(said, { onSuccess: () => setText("") });
  return (
    <form
      aria-label="Add parts"
      className="grid gap-2 border-b border-line bg-sheet px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        add(text);
      }}
    >
      <Field
        label="A part, a line each"
        hint={
          <>
            The song and the part, then what is said of it: <i>loud</i>, <i>40 min</i> or <i>15 + 40 min</i>{" "}
            with finding the sound, <i>through</i> a hook-up, <i>after</i> or <i>double of</i> another part,{" "}
            <i>with</i> somebody, <i>must</i>, <i>pan 30 left</i>. Cells of a spreadsheet can be pasted.
          </>
        }
      >
        <textarea
          rows={Math.min(8, Math.max(2, text.split("\n").length))}
          className={`${FIELD} font-mono text-[13px]`}
          placeholder={EXAMPLE}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter" && !event.shiftKey && !text.includes("\n")) {
              event.preventDefault();
              add(text);
            }
          }}
        />
      </Field>
      {lines.error && (
        <ul role="alert" className="grid gap-1 text-[13px] font-medium text-stop">
          {(lines.error instanceof Refusal ? lines.error.problems : [lines.error.message]).map((said) => (
            <li key={said}>{said}</li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <Button look="main" type="submit" disabled={!text.trim() || lines.isPending}>
          {text.trim().includes("\n") ? "Add these parts" : "Add the part"}
        </Button>
        <Button onClick={() => file.current?.click()}>
          <Upload size={14} /> CSV in …
        </Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.tsv,.txt,text/csv"
          className="hidden"
          aria-label="CSV of parts"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) void chosen.text().then((said) => add(said));
          }}
        />
      </div>
    </form>
  );
}

/** Whether a part lies somewhere, or why it does not. */
function Lies({ plan, part }: { plan: Plan; part: Part }) {
  const day = plan.days.find((each) => each.blocks.some((b) => b.part === part.id && !b.choosing));
  const block = day?.blocks.find((b) => b.part === part.id && !b.choosing);
  if (block?.done || part.done) return <>done</>;
  if (day && block)
    return (
      <>
        {day.name}, {block.at.split(" to ")[0]}
      </>
    );
  const left = plan.left_out.find((each) => each.part === part.id);
  return <>{left?.why ? "cannot be laid" : "not laid"}</>;
}

/** All parts, song by song. */
export function Parts({ plan, edits }: { plan: Plan; edits: PlanEdits }) {
  const [params, setParams] = useSearchParams();
  const editing = params.get("part") ?? undefined;
  const setEditing = (id?: string) => setParams(id ? { part: id } : {}, { replace: true });
  const [search, setSearch] = useState("");
  const [dropping, setDropping] = useState<{ ids: string[]; name: string }>();
  const [naming, setNaming] = useState<{ song: string; name: string; copy: boolean }>();
  const hookups = useHookups().data?.entries;
  const part = editing ? partOf(plan.project, editing) : undefined;
  const said = search.trim().toLowerCase();
  const songs = plan.project.songs
    .map((song) => ({
      ...song,
      parts: song.parts.filter((each) =>
        `${song.name} ${each.name} ${each.role}`.toLowerCase().includes(said),
      ),
    }))
    .filter((song) => song.parts.length > 0);
  return (
    <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <section aria-label="Parts" className="min-w-0 flex-1 lg:overflow-y-auto">
        <Lines edits={edits} />
        {plan.parts > 0 && (
          <div className="flex flex-wrap items-center gap-3 px-4 pt-3 text-[13px]">
            <input
              aria-label="Search the parts"
              placeholder="Search"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
              className="w-[180px] rounded-md border border-line bg-sheet px-2 py-1"
            />
            <label className="flex items-center gap-2">
              The sound is chosen
              <select
                value={plan.project.school}
                onChange={(event) =>
                  edits.change.mutate([ofProject({ school: event.target.value as "commit" | "later" })])
                }
                className="rounded-md border border-line bg-sheet px-2 py-1"
              >
                <option value="commit">before it is played: commit</option>
                <option value="later">at the mix: record now</option>
              </select>
            </label>
            <a className="ml-auto underline" href={`/api/plans/${plan.id}/parts.csv`} download>
              CSV of the parts
            </a>
          </div>
        )}
        {plan.parts === 0 && (
          <Empty title="No parts yet">Type the first above; Enter adds it. Try: {EXAMPLE}</Empty>
        )}
        {plan.parts > 0 && songs.length === 0 && <Empty title="No part is called so" />}
        {songs.map((song) => (
          <table key={song.id} className="mt-3 w-full table-fixed text-[13px]">
            <caption className="px-4 pb-1 text-left">
              <span className="flex items-center gap-2">
                <b className="text-[14.5px]">{song.name}</b>
                <Menu
                  trigger={
                    <Button
                      look="quiet"
                      className="!px-1.5"
                      aria-label={`What can be done with ${song.name}`}
                    >
                      <ChevronDown size={14} />
                    </Button>
                  }
                  items={[
                    {
                      label: "Copy its parts to a new song …",
                      run: () => setNaming({ song: song.id, name: `${song.name}, again`, copy: true }),
                    },
                    {
                      label: "Rename it …",
                      run: () => setNaming({ song: song.id, name: song.name, copy: false }),
                    },
                    {
                      label: "Take it out …",
                      run: () => setDropping({ ids: song.parts.map((p) => p.id), name: song.name }),
                    },
                  ]}
                />
              </span>
            </caption>
            <thead className="text-left text-[12px] text-ink-2">
              <tr>
                <th className="w-[27%] py-1 pl-4 font-medium">Part</th>
                <th className="w-[29%] py-1 pr-2 font-medium">Through</th>
                <th className="w-[16%] py-1 font-medium">Time</th>
                <th className="w-[11%] py-1 font-medium max-sm:hidden">After</th>
                <th className="py-1 pr-4 font-medium">Lies</th>
              </tr>
            </thead>
            <tbody>
              {song.parts.map((each) => (
                <tr
                  key={each.id}
                  className={`border-t border-line/60 ${editing === each.id ? "bg-shoal" : "hover:bg-faint"}`}
                >
                  <td className="py-1 pl-4">
                    <button
                      type="button"
                      aria-current={editing === each.id || undefined}
                      className="min-h-6 text-left font-semibold underline decoration-line underline-offset-2"
                      onClick={() => setEditing(each.id)}
                    >
                      {each.name}
                    </button>
                    {each.must && <span className="ml-1.5 text-[12px] text-ink-2">must</span>}
                    {each.double_of && (
                      <span className="ml-1.5 text-[12px] text-ink-2">
                        double of {partOf(plan.project, each.double_of)?.name}
                      </span>
                    )}
                  </td>
                  <td className="py-1 pr-2">
                    {each.hookup ? (
                      ((hookups ? hookups.find((h) => h.id === each.hookup)?.name : "…") ?? (
                        <span className="inline-flex items-center gap-1 text-caution">
                          <Mark severity="caution" size={14} /> its hook-up is gone
                        </span>
                      ))
                    ) : each.wish ? (
                      "found by its wish"
                    ) : (
                      <span className="text-ink-2">
                        {each.sounds ? `said: ${each.sounds}` : "no hook-up yet"}
                      </span>
                    )}
                  </td>
                  <td className="py-1 whitespace-nowrap">
                    {plan.project.school === "commit" && each.find ? `${each.find} + ` : ""}
                    {lengthWords(each.play)}
                  </td>
                  <td className="py-1 max-sm:hidden">
                    {each.after.map((first) => partOf(plan.project, first)?.name).join(", ")}
                  </td>
                  <td className="py-1 pr-4 whitespace-nowrap">
                    <Lies plan={plan} part={each} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        ))}
      </section>
      {part && (
        <aside
          aria-label="The part"
          className="shrink-0 border-t border-line bg-sheet lg:w-[372px] lg:overflow-y-auto lg:border-t-0 lg:border-l"
        >
          <PartForm
            key={`${part.id} ${plan.saves}`}
            plan={plan}
            part={part}
            edits={edits}
            onDrop={() => setDropping({ ids: [part.id], name: part.name })}
            onClose={() => setEditing(undefined)}
          />
        </aside>
      )}
      <Confirm
        open={dropping !== undefined}
        title={`Take “${dropping?.name ?? ""}” out?`}
        yes="Take it out"
        onYes={() => {
          if (dropping) edits.change.mutate([{ op: "drop_parts", parts: dropping.ids }]);
          setEditing(undefined);
        }}
        onClose={() => setDropping(undefined)}
      >
        {dropping && dropping.ids.length > 1 && `With its ${dropping.ids.length} parts. `}
        What comes after it no longer waits for it. It can be undone.
      </Confirm>
      {naming && (
        <NameIt
          title={naming.copy ? "A new song with the same parts" : "Rename the song"}
          name={naming.name}
          yes={naming.copy ? "Copy the parts" : "Rename it"}
          onName={(name) =>
            edits.change.mutate([
              naming.copy
                ? { op: "copy_song", song: naming.song, name }
                : { op: "rename_song", song: naming.song, name },
            ])
          }
          onClose={() => setNaming(undefined)}
        />
      )}
    </div>
  );
}
