import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState, type ReactNode } from "react";
import { useSearchParams } from "react-router";
import { answer, api, type Schemas } from "../../../api/client";
import { RECORDING_KINDS } from "../../../parts/bringIn";
import { ChartFrame } from "../../../parts/ChartFrame";
import { Confirm } from "../../../parts/Confirm";
import { Button, FIELD } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { NameIt } from "../../../parts/NameIt";
import { Part } from "../../../parts/Part";
import { Empty, Failed, Loading } from "../../../parts/states";
import { fixed } from "../../../parts/table";
import { useFileDrop } from "../../../parts/useFileDrop";
import { useJoining } from "../../../parts/useJoining";
import { AddRecordings } from "../../compare/AddRecordings";
import { PartFields } from "../../compare/PartFields";
import { Typed } from "../Amount";
import type { Blend } from "../useBlend";
import { HearMix } from "./HearMix";
import { MixBands } from "./MixBands";
import { Rank } from "./Rank";
import { Tracks } from "./Tracks";
import { BUILT_IN, trackOf, useHeard, useMix, useMixes } from "./useMix";

const LONGEST_SONG_S = 36_030;
const LEAST_S = 1;
const NOT_MODELLED =
  "An estimate: each third octave by itself, in what is loud. How one band covers its neighbours, left and right, and the room are left out.";

interface Props {
  blend: Blend;
  onSpeaker: (speaker: Schemas["RankedSpeaker"]) => void;
  onHeard: () => void;
  /** What was put on last, and how it is undone. */
  notice: ReactNode;
  /** What stands under all of it at the right. */
  children: ReactNode;
}

/** A new mix, with what is put into it first. */
function useNewMix(onMade: (id: number) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["NewMixBody"]) => answer(api.POST("/api/mixes", { body })),
    onSuccess: async (made) => {
      client.setQueryData(["mix", made.id], made);
      await client.invalidateQueries({ queryKey: ["mixes"] });
      onMade(made.id);
    },
  });
}

function Work({ id, blend, onSpeaker, onHeard, notice, children }: Props & { id: number }) {
  const client = useQueryClient();
  const [, setAsked] = useSearchParams();
  const choose = (next: number) => setAsked({ mix: String(next) }, { replace: true });
  const list = useMixes();
  const mix = useMix(id);
  const { state, doc } = mix;
  const make = useNewMix(choose);
  const chooser = useRef<HTMLInputElement>(null);
  const [asking, setAsking] = useState<"takes" | "name" | "new" | "delete">();
  const close = () => setAsking(undefined);
  const sources = useQuery({
    queryKey: ["blend-sources"],
    queryFn: () => answer(api.GET("/api/blends/sources")),
  });
  const files = useJoining<Schemas["MixLine"]>(
    `/api/mixes/${id}/files`,
    (line) => line.mix && mix.put(line.mix),
  );
  const taken = (found: FileList | null) => found?.length && void files.add([...found]);
  const drop = useFileDrop(taken);
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE("/api/mixes/{mix_id}", { params: { path: { mix_id: id } } })),
    onSuccess: () => {
      client.setQueryData<Schemas["MixList"]>(["mixes"], (had) =>
        had ? { mixes: had.mixes.filter((each) => each.id !== id) } : had,
      );
      setAsked({}, { replace: true });
    },
  });
  useKeys({ u: mix.undo, U: mix.redo });
  if (mix.query.error && !state)
    return <Failed error={mix.query.error} retry={() => void mix.query.refetch()} />;
  if (!state || !doc) return <Loading what="the mix" />;
  const there = new Set(doc.tracks.map((t) => t.source));
  const room = state.most - doc.tracks.length;
  const built = BUILT_IN.filter((source) => !there.has(source));
  const add = (added: string[]) => mix.change({ tracks: [...doc.tracks, ...added.map(trackOf)] });
  return (
    <>
      <div className={`flex min-w-0 flex-1 flex-col ${drop.look}`} {...drop.on}>
        <div className="flex shrink-0 flex-wrap items-center gap-1.5 border-b border-line px-5 py-1.5 text-[13px]">
          <b>Heard against</b>
          <select
            aria-label="Mix"
            className="max-w-[200px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
            value={id}
            onChange={(event) => choose(Number(event.target.value))}
          >
            {(list.data?.mixes ?? [{ id, name: state.name }]).map((each) => (
              <option key={each.id} value={each.id}>
                {each.id === id ? mix.name : each.name}
              </option>
            ))}
          </select>
          <Button disabled={room < 1} onClick={() => setAsking("takes")}>
            Takes, files …
          </Button>
          {built.length > 0 && (
            <Button disabled={room < built.length} onClick={() => add(built)}>
              Built-in backing
            </Button>
          )}
          <span className="ml-auto flex">
            <Button look="quiet" onClick={() => setAsking("new")}>
              New
            </Button>
            <Button look="quiet" onClick={() => setAsking("name")}>
              Rename
            </Button>
            <Button look="quiet" onClick={() => setAsking("delete")}>
              Delete
            </Button>
          </span>
          <input
            ref={chooser}
            type="file"
            multiple
            accept={RECORDING_KINDS}
            aria-label="Files for the mix"
            className="hidden"
            onChange={(event) => {
              taken(event.target.files);
              event.target.value = "";
            }}
          />
        </div>
        {files.at && (
          <div className="shrink-0 px-5 py-1.5">
            <Part what={`Bringing in ${files.at.name}`} part={files.at.part} onStop={files.stop} />
          </div>
        )}
        {mix.error && <Failed error={mix.error} retry={mix.retry} />}
        {[files.error, remove.error, make.error].map((each, i) => each && <Failed key={i} error={each} />)}
        {doc.tracks.length > 0 && (
          <div className="shrink-0 lg:max-h-[46%] lg:overflow-y-auto">
            <Tracks mix={mix} />
          </div>
        )}
        <div className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-5 py-1.5 text-[12.5px]">
          <label className="flex items-center gap-1.5">
            <b>Guitar</b>
            <select
              className={`${FIELD} !w-[180px] !py-0.5`}
              value={doc.guitar}
              onChange={(event) => mix.change({ guitar: event.target.value, at: null })}
            >
              {!sources.data?.sources.some((s) => s.id === doc.guitar) && (
                <option value={doc.guitar}>{state.guitar}</option>
              )}
              {(sources.data?.sources ?? []).map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
          <span className="flex items-center gap-1.5">
            begins at
            <Typed
              label="Guitar begins at"
              unit="s"
              value={doc.at ?? state.at}
              digits={2}
              bounds={[0, 36_000]}
              onValue={(at) => mix.change({ at })}
            />
          </span>
          <span className="flex items-center gap-1.5">
            <b>Section</b>
            <PartFields
              part={{ start: doc.start, stop: doc.stop }}
              length={LONGEST_SONG_S}
              least={LEAST_S}
              onPart={(part) => mix.change(part)}
            />
          </span>
          {state.warning && <span className="font-medium text-caution">{state.warning}</span>}
        </div>
        <Bands blend={blend} mix={state} onAdd={() => setAsking("takes")} onBuilt={() => add(built)} />
      </div>
      <aside
        aria-label="How it is heard"
        className="shrink-0 border-t border-line bg-sheet lg:w-[348px] lg:overflow-y-auto lg:border-t-0 lg:border-l"
      >
        <HearMix blend={blend} mix={mix} onHeard={onHeard} />
        <Said blend={blend} mix={state} />
        {notice}
        <Rank mix={state} blend={blend.id} onTake={onSpeaker} />
        {children}
      </aside>
      {asking === "takes" && (
        <AddRecordings
          there={doc.tracks.flatMap((t) => (t.source.startsWith("take-") ? [Number(t.source.slice(5))] : []))}
          most={room}
          begins={false}
          about="They sound beside the guitar, each from where it says that it begins in the song."
          onAdd={(takes) => {
            close();
            add(takes.map((take) => `take-${take}`));
          }}
          onFiles={() => {
            close();
            chooser.current?.click();
          }}
          onClose={close}
        />
      )}
      {asking === "name" && (
        <NameIt
          title="Rename the mix"
          name={mix.name}
          yes="Rename it"
          onName={(name) => mix.change({}, name)}
          onClose={close}
        />
      )}
      {asking === "new" && (
        <NameIt
          title="New mix"
          name="Mix"
          yes="Make it"
          onName={(name) => make.mutate({ name, tracks: [], guitar: doc.guitar })}
          onClose={close}
        />
      )}
      <Confirm
        open={asking === "delete"}
        title={`Delete “${state.name}”?`}
        yes="Delete it"
        onYes={() => remove.mutate()}
        onClose={close}
      >
        Takes in it stay in the log; files that were brought into it alone go with it.
      </Confirm>
    </>
  );
}

/** Band by band: the guitar, and what covers it. */
function Bands({
  blend,
  mix,
  onAdd,
  onBuilt,
}: {
  blend: Blend;
  mix: Schemas["MixState"];
  onAdd: () => void;
  onBuilt: () => void;
}) {
  const heard = useHeard(mix, blend);
  if (mix.doc.tracks.length === 0)
    return (
      <Empty title="Nothing to hear it against yet">
        Put in other takes, stems or a rough mix, at their levels and where they begin in the song; or try it
        with the backing that comes with the program.
        <span className="flex flex-wrap justify-center gap-2">
          <Button look="main" onClick={onAdd}>
            Takes, files …
          </Button>
          <Button onClick={onBuilt}>Built-in backing</Button>
        </span>
      </Empty>
    );
  if (heard.error) return <Failed error={heard.error} retry={() => void heard.refetch()} />;
  if (!heard.data) return <Loading what="what is heard" />;
  const { bands } = heard.data;
  return (
    <div className="min-h-[220px] flex-1">
      <ChartFrame
        roomy
        label="Band by band"
        title={
          <span className="flex flex-wrap items-baseline gap-x-3">
            <b>Band by band</b>
            <span className="font-normal text-ink-2">
              bars: the guitar, filled where it is heard, hollow where it is covered; line: the backing
            </span>
          </span>
        }
        sentence=""
        table={{
          head: ["Third octave, Hz", "Guitar, dB", "Backing, dB", "Guitar over backing, dB", "Heard"],
          rows: bands.map((b) => [
            b.hz,
            fixed(b.guitar, 1),
            fixed(b.backing, 1),
            fixed(b.over, 1),
            b.heard ? "yes" : "no",
          ]),
        }}
      >
        <MixBands bands={bands} />
      </ChartFrame>
    </div>
  );
}

/** What comes through, in words, and what the words leave out. */
function Said({ blend, mix }: { blend: Blend; mix: Schemas["MixState"] }) {
  const heard = useHeard(mix, blend);
  const few = (heard.data?.heard ?? 0) * 2 < (heard.data?.bands.length ?? 0);
  return (
    <section aria-label="What comes through" className="border-b border-line px-4 py-2.5 text-[13px]">
      <div role="status">
        {heard.data &&
          !heard.error &&
          heard.data.words.map((said, i) => (
            <p key={said} className={i > 0 ? "text-ink-2" : few ? "font-bold text-caution" : "font-bold"}>
              {said}
            </p>
          ))}
      </div>
      <p className="mt-1 text-[12.5px] text-ink-2">{NOT_MODELLED}</p>
    </section>
  );
}

/** The guitar through the blend, against what else sounds. */
export function InTheMix(props: Props) {
  const [asked, setAsked] = useSearchParams();
  const list = useMixes();
  const make = useNewMix((id) => setAsked({ mix: String(id) }, { replace: true }));
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the mixes" />;
  const wanted = Number(asked.get("mix"));
  // One that was deleted gives way to the newest.
  const chosen = list.data.mixes.some((each) => each.id === wanted) ? wanted : list.data.mixes[0]?.id;
  if (chosen) return <Work key={chosen} id={chosen} {...props} />;
  return (
    <div className="min-w-0 flex-1 overflow-y-auto">
      <Empty title="Nothing to hear it against yet">
        Alone a speaker may please and vanish beside everything else. Put in other takes, stems or a rough
        mix; or try it with the backing that comes with the program.
        <span className="flex flex-wrap justify-center gap-2">
          <Button look="main" onClick={() => make.mutate({ name: "Mix", tracks: [], guitar: "driven" })}>
            New mix
          </Button>
          <Button
            onClick={() => make.mutate({ name: "Built-in backing", tracks: BUILT_IN, guitar: "driven" })}
          >
            Built-in backing
          </Button>
        </span>
        {make.error && <Failed error={make.error} />}
      </Empty>
    </div>
  );
}
