import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Navigate, useLocation, useNavigate, useParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { Confirm } from "../../parts/Confirm";
import { Button } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { NameIt } from "../../parts/NameIt";
import { Failed, Loading } from "../../parts/states";
import { Bar, type Asking } from "./Bar";
import { ByItself } from "./ByItself";
import { Commit } from "./Commit";
import { Delay } from "./Delay";
import { FromLibrary } from "./FromLibrary";
import { Library } from "./Library";
import { InTheMix } from "./mix/InTheMix";
import { New } from "./New";
import { Out } from "./Out";
import { Suggest } from "./Suggest";
import { MOST_PARTS, partOf, useBlend } from "./useBlend";
import { useChoosing } from "./useChoosing";
import { useRecipe } from "./useRecipe";

const useList = () => useQuery({ queryKey: ["blends"], queryFn: () => answer(api.GET("/api/blends")) });

/** One blend, by itself or in a mix. */
function Work({ id, inMix }: { id: number; inMix: boolean }) {
  const go = useNavigate();
  const client = useQueryClient();
  const list = useList();
  const blend = useBlend(id);
  const { state, doc } = blend;
  const [asking, setAsking] = useState<Asking>();
  const close = () => setAsking(undefined);
  // A sheet asks about the blend as it is kept: it opens once the last edit is there.
  const open = blend.settled ? asking : undefined;
  const choosing = useChoosing(id);
  const { search } = useLocation();
  const [putOn, setPutOn] = useState<string>();
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE("/api/blends/{blend_id}", { params: { path: { blend_id: id } } })),
    onSuccess: () => {
      client.setQueryData<Schemas["BlendList"]>(["blends"], (had) =>
        had ? { blends: had.blends.filter((each) => each.id !== id) } : had,
      );
      void go("/cab");
    },
  });
  const copy = useMutation({
    mutationFn: (name: string) =>
      answer(api.POST("/api/blends/{blend_id}/copy", { params: { path: { blend_id: id } }, body: { name } })),
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["blends"] });
      void go(`/cab/${made.id}`);
    },
  });
  const recipe = useRecipe();
  useKeys(
    inMix ? {} : { u: blend.undo, U: blend.redo, a: () => doc?.school === "impulses" && setAsking("add") },
  );
  if (blend.query.error && !state)
    return <Failed error={blend.query.error} retry={() => void blend.query.refetch()} />;
  if (!state || !doc) return <Loading what="the blend" />;
  const taking = (
    <div className="flex flex-wrap items-center gap-2 px-4 py-2.5 text-[12.5px] text-ink-2">
      <Button disabled={!state.response} onClick={() => setAsking("commit")}>
        Take it for a part …
      </Button>
      <span className={choosing.over ? "font-semibold text-caution" : ""}>{choosing.words}</span>
    </div>
  );
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:overflow-hidden">
      <Bar
        id={id}
        blend={blend}
        list={list.data?.blends}
        inMix={inMix}
        onAsk={setAsking}
        onRecipe={recipe.choose}
      />
      {recipe.input}
      {blend.error && <Failed error={blend.error} retry={blend.retry} />}
      {[remove.error, copy.error, recipe.error].map((each, i) => each && <Failed key={i} error={each} />)}
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        {inMix ? (
          <InTheMix
            blend={state}
            onHeard={choosing.count}
            notice={
              putOn && (
                <p
                  role="status"
                  className="flex items-center gap-2 border-b border-line px-4 py-2 text-[12.5px]"
                >
                  <span className="min-w-0 flex-1">
                    “{state.name}” is {putOn} alone now.
                  </span>
                  <Button
                    onClick={() => {
                      blend.undo();
                      setPutOn(undefined);
                    }}
                  >
                    Undo it
                  </Button>
                </p>
              )
            }
            onSpeaker={({ kind, id: number, name }) => {
              if (kind === "blend") return void go(`/cab/${number}/mix${search}`);
              blend.change({ school: "impulses", parts: [partOf(number)], line_up: "recorded" });
              setPutOn(name);
            }}
          >
            {taking}
          </InTheMix>
        ) : (
          <ByItself
            blend={blend}
            others={list.data?.blends ?? []}
            onAdd={() => setAsking("add")}
            onHeard={choosing.count}
          >
            {taking}
          </ByItself>
        )}
      </div>
      {open === "add" && (
        <FromLibrary
          there={doc.parts.map((p) => p.impulse)}
          most={MOST_PARTS - doc.parts.length}
          onClose={close}
          onAdd={(ids) => {
            close();
            blend.change({ parts: [...doc.parts, ...ids.map(partOf)] });
          }}
        />
      )}
      {open === "name" && (
        <NameIt
          title="Rename the blend"
          name={blend.name}
          yes="Rename it"
          onName={(name) => blend.change({}, name)}
          onClose={close}
        />
      )}
      {open === "copy" && (
        <NameIt
          title="A copy of the blend"
          name={`${blend.name}, once more`}
          yes="Make it"
          onName={(name) => copy.mutate(name)}
          onClose={close}
        />
      )}
      {open === "suggest" && (
        <Suggest
          blend={id}
          onClose={close}
          onTake={(parts) => {
            close();
            blend.change({ parts, line_up: "sum" });
          }}
        />
      )}
      {open === "delay" && <Delay state={state} onClose={close} />}
      {open === "out" && <Out state={state} onClose={close} />}
      {open === "commit" && (
        <Commit state={state} tried={choosing.tried} onClose={close} onDone={choosing.done} />
      )}
      <Confirm
        open={open === "delete"}
        title={`Delete “${state.name}”?`}
        yes="Delete it"
        onYes={() => remove.mutate()}
        onClose={close}
      >
        Its impulse responses stay in the library.
      </Confirm>
    </div>
  );
}

export default function Cab() {
  const { blendId } = useParams();
  const { pathname, search } = useLocation();
  const inMix = pathname.endsWith("/mix");
  const list = useList();
  if (blendId === "library") return <Library />;
  if (blendId === "new") return <New />;
  if (blendId && blendId !== "mix") return <Work key={blendId} id={Number(blendId)} inMix={inMix} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the blends" />;
  const newest = list.data.blends[0];
  return newest ? <Navigate to={`/cab/${newest.id}${inMix ? `/mix${search}` : ""}`} replace /> : <New />;
}
