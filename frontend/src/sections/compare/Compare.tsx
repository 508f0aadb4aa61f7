import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { RECORDING_KINDS } from "../../parts/bringIn";
import { ChartFrame } from "../../parts/ChartFrame";
import { Confirm } from "../../parts/Confirm";
import { Button, Field, Key, TextInput } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { NameIt } from "../../parts/NameIt";
import { Part } from "../../parts/Part";
import { Empty, Failed, Loading } from "../../parts/states";
import { fixed } from "../../parts/table";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { useJoining } from "../../parts/useJoining";
import { useFileDrop } from "../../parts/useFileDrop";
import { AddRecordings } from "./AddRecordings";
import { FilterCan, percent } from "./FilterCan";
import { Listen } from "./Listen";
import { Matching } from "./Matching";
import { dynamicsOf, MEASURES, Moves } from "./Moves";
import { NewShootOut } from "./ShootOut";
import { PartFields } from "./PartFields";
import { Strips } from "./Strips";
import { Sweep } from "./Sweep";
import { TheList } from "./TheList";
import { docOf, LETTERS, useComparison, type Comparison, type Part as Section } from "./useComparison";
import { usePlayTogether } from "./usePlayTogether";
import { Water } from "./Water";

const MOST = 8;
const VIEWS = [
  { id: "level", name: "Level by band" },
  { id: "moves", name: "Dynamics" },
  { id: "filter", name: "What a filter can do" },
  { id: "matching", name: "Matching filter" },
] as const;
type View = (typeof VIEWS)[number]["id"];

const useList = () =>
  useQuery({ queryKey: ["comparisons"], queryFn: () => answer(api.GET("/api/comparisons")) });

function tableOf(state: Comparison, at: number, view: View) {
  const track = state.tracks[at];
  if (view === "moves")
    return {
      head: ["Measure", ...state.tracks.map((t) => t.called)],
      rows: MEASURES.map(([name, field, unit]) => [
        `${name}, ${unit}`,
        ...state.tracks.map((_, i) => {
          const value = dynamicsOf(state, i)?.[field];
          return value === null || value === undefined ? null : fixed(value, 1);
        }),
      ]),
    };
  if (view === "filter")
    return {
      head: ["Octave, Hz", "a filter gives", "null, dB", "null after the filter, dB"],
      rows: (track?.held?.filter?.octaves ?? []).map((o) => [
        o.hz,
        o.share === null ? null : percent(o.share),
        o.null === null ? null : fixed(o.null, 1),
        o.null_filtered === null ? null : fixed(o.null_filtered, 1),
      ]),
    };
  const shown = state.tracks.flatMap((t) => (t.held?.spectrum ? [t] : []));
  return {
    head: ["Frequency, Hz", ...shown.flatMap((t) => [`${t.called}, dB`, "±, dB"])],
    rows: (shown[0]?.held?.spectrum?.frequency ?? []).map((f, i) => [
      Number(f.toPrecision(3)),
      ...shown.flatMap((t) => {
        const found = t.held!.spectrum!;
        return found.told[i] ? [fixed(found.db[i]!, 2), fixed(found.spread[i]!, 2)] : [null, null];
      }),
    ]),
  };
}

function Work({ id }: { id: number }) {
  const go = useNavigate();
  const client = useQueryClient();
  const list = useList();
  const { query, state, put, change, error, undo, redo, work } = useComparison(id);
  const files = useJoining<Schemas["ComparisonLine"]>(
    `/api/comparisons/${id}/files`,
    (line) => line.comparison && put(line.comparison),
  );
  const [chosenAt, setAt] = useState(1);
  const [view, setView] = useState<View>("level");
  const [adding, setAdding] = useState(false);
  const [deleting, setDeleting] = useState(false);
  const [renaming, setRenaming] = useState(false);
  const [listed, setListed] = useState<boolean>();
  const [beganAsList, setBeganAsList] = useState<boolean>();
  const [chosen, setPart] = useState<Section>();
  const chooser = useRef<HTMLInputElement>(null);
  const together = usePlayTogether(
    (audio, { start, stop }) => `/api/comparisons/${id}/sound/${audio}?start=${start}&stop=${stop}`,
  );
  const remove = useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/comparisons/{comparison_id}", { params: { path: { comparison_id: id } } })),
    onSuccess: () => {
      // Not even for a moment: the newest one is opened next.
      client.setQueryData<Schemas["ComparisonList"]>(["comparisons"], (had) =>
        had ? { comparisons: had.comparisons.filter((each) => each.id !== id) } : had,
      );
      void go("/compare");
    },
  });
  const first = state?.sections[0] ?? state?.suggested[0];
  const part = useMemo(
    () => chosen ?? first ?? { start: 0, stop: Math.min(4, state?.seconds || 4) },
    [chosen, first, state?.seconds],
  );
  const tracks = state?.tracks ?? [];
  const at = Math.min(chosenAt, Math.max(0, tracks.length - 1));
  const heard = tracks.filter((t) => t.heard).map((t) => t.audio);
  const { play } = together;
  const hear = (place: number) => {
    const track = tracks[place];
    if (!track?.heard) return;
    if (place > 0) setAt(place);
    if (together.isPlaying) together.hear(track.audio);
    else void play(heard, track.audio, part);
  };
  const toggle = () => {
    if (together.isPlaying) together.stop();
    else if (heard[0])
      void play(heard, heard.includes(together.heard ?? "") ? together.heard! : heard[0], part);
  };
  // Another part while it plays is heard at once.
  const playing = useRef(together);
  playing.current = together;
  const sounding = heard.join("|");
  useEffect(() => {
    const { isPlaying, heard: now } = playing.current;
    if (isPlaying && now) void play(sounding.split("|"), now, part);
  }, [part, sounding, play]);
  const sections = state ? (state.sections.length > 0 ? state.sections : state.suggested) : [];
  const walk = (by: number) => {
    const here = sections.findIndex((s) => s.start === part.start && s.stop === part.stop);
    const next = sections[(Math.max(0, here) + by + sections.length) % sections.length];
    if (next) setPart(next);
  };
  useKeys({
    " ": toggle,
    u: undo,
    U: redo,
    "]": () => walk(1),
    "[": () => walk(-1),
    ...Object.fromEntries(tracks.map((_, i) => [LETTERS[i]!, () => hear(i)])),
  });
  const taken = (found: FileList | null) => found?.length && void files.add([...found]);
  const drop = useFileDrop(taken);
  if (query.error && !state) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!state) return <Loading what="the comparison" />;
  const track = tracks[at];
  // A list that nothing came of yet is what is looked at, until its button says otherwise.
  if (beganAsList === undefined) setBeganAsList(tracks.length < 2);
  const showsList = state.has_list && (listed ?? beganAsList ?? false);
  const kept = state.sections.some((s) => s.start === part.start && s.stop === part.stop);
  const long = part.stop - part.start >= 2;
  const curves = tracks.flatMap((t, place) =>
    place > 0 && t.held?.spectrum ? [{ place, name: t.called, found: t.held.spectrum }] : [],
  );
  const last = tracks[tracks.length - 1];
  return (
    <div
      className={`flex h-full min-h-0 flex-col overflow-y-auto lg:overflow-hidden ${drop.look}`}
      {...drop.on}
    >
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-5 py-2 text-[13px]">
        <select
          aria-label="Comparison"
          className="max-w-[300px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
          value={id}
          onChange={(event) => void go(`/compare/${event.target.value}`)}
        >
          {(list.data?.comparisons ?? [{ id, name: state.name }]).map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
        <Button onClick={() => setAdding(true)} disabled={tracks.length >= MOST}>
          Add recordings …
        </Button>
        {state.has_list && (
          <Button
            look={showsList ? "main" : "plain"}
            aria-pressed={showsList}
            onClick={() => setListed(!showsList)}
          >
            Shoot-out list
          </Button>
        )}
        <Button look="quiet" onClick={() => void go("/compare/new")}>
          <Plus size={14} /> New
        </Button>
        <Button look="quiet" onClick={() => setRenaming(true)}>
          Rename
        </Button>
        <Button look="quiet" onClick={() => setDeleting(true)}>
          Delete
        </Button>
        <span className="ml-auto flex items-center gap-1 text-ink-2">
          <Key>u</Key> undo
        </span>
        <input
          ref={chooser}
          type="file"
          multiple
          accept={RECORDING_KINDS}
          aria-label="Files to compare"
          className="hidden"
          onChange={(event) => {
            taken(event.target.files);
            event.target.value = "";
          }}
        />
      </div>
      {work.doing && (
        <div className="shrink-0 px-5 py-1.5">
          <Part
            what={`${work.doing.name} ${work.doing.what}`.trim()}
            part={work.doing.part}
            onStop={work.stop}
          />
        </div>
      )}
      {files.at && (
        <div className="shrink-0 px-5 py-1.5">
          <Part what={`Bringing in ${files.at.name}`} part={files.at.part} onStop={files.stop} />
        </div>
      )}
      {[error, files.error, remove.error].map((each, i) => each && <Failed key={i} error={each} />)}
      {work.error && <Failed error={work.error} retry={() => void work.begin()} />}
      {work.stopped && (
        <p className="shrink-0 px-5 py-1.5 text-[13px]">
          Stopped. <Button onClick={() => void work.begin()}>Go on</Button>
        </p>
      )}
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <div className="flex min-w-0 flex-1 flex-col">
          {showsList ? (
            <TheList id={id} put={put} />
          ) : tracks.length < 2 ? (
            <Empty title={tracks.length ? "One more recording is wanted" : "Nothing to compare yet"}>
              The first is the reference, the others are held against it. Drop WAV, FLAC or AIFF files here,
              or choose takes of the log.
              <Button look="main" onClick={() => setAdding(true)}>
                Add recordings …
              </Button>
            </Empty>
          ) : (
            <>
              <p
                role="status"
                className="shrink-0 px-5 pt-2.5 lg:max-h-[96px] lg:overflow-y-auto text-[15px] leading-snug"
              >
                {at === 0
                  ? `${track?.called} is the reference: the others are held against it.`
                  : track?.said.length
                    ? track.said.map((said) =>
                        said.first ? (
                          <b key={said.text}>{said.text} </b>
                        ) : (
                          <span key={said.text}>{said.text} </span>
                        ),
                      )
                    : `${track?.called}: not compared yet.`}{" "}
                {state.bias && <span className="text-[13px] text-ink-2">{state.bias}</span>}
              </p>
              <div className="flex min-h-[180px] flex-[1] flex-col px-5 pt-2">
                <Strips
                  state={state}
                  at={at}
                  onAt={setAt}
                  part={part}
                  onPart={setPart}
                  together={together}
                  onToggle={toggle}
                />
                <div className="flex shrink-0 flex-wrap items-center gap-1.5 pb-1.5 text-[12.5px]">
                  <span className="text-ink-2">Played in a loop</span>
                  <PartFields part={part} length={state.seconds} onPart={setPart} />
                  <span className="pl-2 text-ink-2">Sections</span>
                  {sections.map((s, i) => (
                    <Button
                      key={`${s.start}${s.stop}`}
                      look={s.start === part.start && s.stop === part.stop ? "main" : "plain"}
                      className="min-h-[24px] !py-0.5"
                      onClick={() => setPart(s)}
                    >
                      {"ABCDEFGH"[i]} {fixed(s.start, 1)} to {fixed(s.stop, 1)} s
                    </Button>
                  ))}
                  {kept ? (
                    <Button
                      look="quiet"
                      className="min-h-[24px] !py-0.5"
                      onClick={() =>
                        change({
                          sections: state.sections.filter(
                            (s) => s.start !== part.start || s.stop !== part.stop,
                          ),
                        })
                      }
                    >
                      Forget this one
                    </Button>
                  ) : (
                    <Button
                      look="quiet"
                      className="min-h-[24px] !py-0.5"
                      disabled={!long || state.sections.length >= 8}
                      title={long ? undefined : "A section is 2 to 30 s long."}
                      onClick={() =>
                        change({ sections: [...state.sections, part].sort((p, q) => p.start - q.start) })
                      }
                    >
                      Keep this part
                    </Button>
                  )}
                  <span className="ml-auto text-ink-2 max-xl:hidden">
                    <Key>space</Key> plays, <Key>a</Key> to <Key>{LETTERS[tracks.length - 1]}</Key> change
                    over
                  </span>
                </div>
              </div>
              <div className="min-h-[240px] flex-[1.1] shrink-0 border-t border-line pb-1">
                <Tabbed at={view} onTab={setView}>
                  <div className="flex h-full flex-col">
                    <ChartFrame
                      roomy
                      label="Against the reference"
                      title={<TabRow label="Against the reference" tabs={VIEWS} className="flex-wrap" />}
                      sentence={view === "level" ? (track?.as_it_came ?? "") : ""}
                      table={tableOf(state, at, view)}
                    >
                      <TabPanel at={view} className="h-full">
                        {view === "level" ? (
                          curves.length > 0 ? (
                            <Water curves={curves} at={at} />
                          ) : (
                            <p className="pt-4 text-ink-2">Nothing is compared over frequency yet.</p>
                          )
                        ) : view === "moves" ? (
                          <Moves state={state} at={at} />
                        ) : view === "filter" ? (
                          track?.held?.filter ? (
                            <FilterCan found={track.held.filter} name={track.called} />
                          ) : (
                            <p className="pt-4 text-ink-2">
                              {at === 0
                                ? "Choose one of the others."
                                : track?.held?.relation === "again"
                                  ? "It was played again: what a filter can do is told of the same performance alone."
                                  : "Told of the same performance in line, from four seconds on."}
                            </p>
                          )
                        ) : at > 0 && track?.held?.spectrum ? (
                          <Matching comparison={id} audio={track.audio} />
                        ) : (
                          <p className="pt-4 text-ink-2">Choose one of the others that was compared.</p>
                        )}
                      </TabPanel>
                    </ChartFrame>
                  </div>
                </Tabbed>
              </div>
            </>
          )}
        </div>
        <aside
          aria-label="Listen"
          className="flex shrink-0 flex-col border-t border-line bg-sheet lg:w-[348px] lg:border-t-0 lg:border-l"
        >
          <h2 className="flex shrink-0 items-baseline justify-between gap-3 border-b border-line px-4 pt-3 pb-1.5 text-[13px] font-bold">
            Listen
            <span className="font-normal text-ink-2">
              {last?.held
                ? `matched within 0.1 LU${state.top_db < -0.05 ? `, all ${fixed(state.top_db, 1)} dB` : ""}`
                : ""}
            </span>
          </h2>
          <Listen
            state={state}
            at={at}
            onAt={setAt}
            part={part}
            together={together}
            onToggle={toggle}
            onHear={hear}
            onChange={change}
          />
        </aside>
      </div>
      {adding && (
        <AddRecordings
          begins={false}
          there={tracks.flatMap((t) => (t.take === null ? [] : [t.take]))}
          most={MOST - tracks.length}
          onClose={() => setAdding(false)}
          onFiles={() => {
            setAdding(false);
            chooser.current?.click();
          }}
          onAdd={(takes) => {
            setAdding(false);
            change({
              tracks: [...docOf(state).tracks, ...takes.map((take) => ({ take, audio: "", name: "" }))],
            });
          }}
        />
      )}
      <Confirm
        open={deleting}
        title={`Delete “${state.name}”?`}
        yes="Delete it"
        onYes={() => remove.mutate()}
        onClose={() => setDeleting(false)}
      >
        Takes stay in the log. Files that were brought into this comparison alone, its sections and its blind
        runs go.
      </Confirm>
      {renaming && (
        <NameIt
          title="Rename the comparison"
          name={state.name}
          yes="Rename it"
          onName={(name) => change({ name })}
          onClose={() => setRenaming(false)}
        />
      )}
    </div>
  );
}

/** A new comparison: its takes are chosen, or it begins empty for files. */
function New() {
  const go = useNavigate();
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: ({ takes, name }: { takes: number[]; name: string }) =>
      answer(
        api.POST("/api/comparisons", {
          body: {
            name,
            saves: null,
            doc: { tracks: takes.map((take) => ({ take, audio: "", name: "" })), sections: [] },
          },
        }),
      ),
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["comparisons"] });
      void go(`/compare/${made.id}`, { replace: true });
    },
  });
  const [name, setName] = useState("");
  const [choosing, setChoosing] = useState(false);
  const called = name.trim() || "Comparison";
  return (
    <div className="h-full overflow-y-auto">
      <Empty title="Compare recordings">
        One dry track through many hook-ups, or the same part played again: in line, matched in level, and
        what an equaliser could have done.
        <div className="w-full text-left">
          <Field label="Name">
            <TextInput
              value={name}
              maxLength={120}
              placeholder="Fog theme, three loads"
              onChange={(event) => setName(event.target.value)}
            />
          </Field>
        </div>
        <span className="flex flex-wrap justify-center gap-2 whitespace-nowrap">
          <Button look="main" onClick={() => setChoosing(true)}>
            Choose takes …
          </Button>
          <Button disabled={make.isPending} onClick={() => make.mutate({ takes: [], name: called })}>
            Begin with files
          </Button>
          <Button onClick={() => void go("/compare/shoot-out")}>Shoot-out …</Button>
          <Button onClick={() => void go("/compare/sweep")}>Sweep …</Button>
        </span>
        {make.error && <Failed error={make.error} />}
      </Empty>
      {choosing && (
        <AddRecordings
          begins
          there={[]}
          most={MOST}
          onClose={() => setChoosing(false)}
          onFiles={() => make.mutate({ takes: [], name: called })}
          onAdd={(takes) => make.mutate({ takes, name: called })}
        />
      )}
    </div>
  );
}

export default function Compare() {
  const { comparisonId } = useParams();
  const list = useList();
  if (comparisonId === "new") return <New />;
  if (comparisonId === "shoot-out") return <NewShootOut />;
  if (comparisonId === "sweep") return <Sweep />;
  if (comparisonId) return <Work key={comparisonId} id={Number(comparisonId)} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the comparisons" />;
  const newest = list.data.comparisons[0];
  return newest ? <Navigate to={`/compare/${newest.id}`} replace /> : <New />;
}
