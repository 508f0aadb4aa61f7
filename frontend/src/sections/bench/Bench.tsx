import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, answer, type BenchState, type Change, type End, type Finding } from "../../api/client";
import { Button } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { fieldLink } from "../../parts/fieldLink";
import { currentHookup } from "../../parts/current";
import { useKeys } from "../../parts/keys";
import { Empty, Failed, Loading } from "../../parts/states";
import { useMedia } from "../../parts/useMedia";
import { useSize } from "../../parts/useSize";
import { useStable } from "../../parts/useStable";
import { AddUnit } from "./AddUnit";
import { Findings } from "./Findings";
import { wantsWidth } from "./fit";
import { FindMeOne } from "./FindMeOne";
import { Choose } from "./Choose";
import { First } from "./First";
import { HookupMenu } from "./HookupMenu";
import { NameSheet } from "./NameSheet";
import { Standing } from "./Outcome";
import { numbered, useNumbers } from "./numbers";
import { Notices } from "./Notices";
import { Picture } from "./Picture";
import { OtherAmps } from "./OtherAmps";
import { Scenes } from "./scenes/Scenes";
import { SceneStrip } from "./scenes/Strip";
import { SocketPanel } from "./SocketPanel";
import { Toolbar } from "./Toolbar";
import { Charts } from "./Charts";
import { WhatIf } from "./WhatIf";
import { useBench } from "./useBench";
import { Verdict } from "./Verdict";
import { useQueryClient } from "@tanstack/react-query";

const NO_CHANGES: Change[] = [];
const NO_FINDINGS: Finding[] = [];
const NOTHING = { units: new Set<string>(), leads: new Set<string>() };

/** In px: the width of the findings where they stand whole on a small screen. */
const ASIDE = 300;

function walk(by: number) {
  const all = [...document.querySelectorAll<HTMLElement>("[data-finding]")];
  const at = all.findIndex((e) => e.contains(document.activeElement));
  all[Math.min(all.length - 1, Math.max(0, at + by))]?.focus();
}

/** The field at hand in the Locker: what the focused finding asks for, or the unit that has the focus or is about. */
function fieldAtHand(state: BenchState): string | undefined {
  const at = document.activeElement;
  const back = `/bench/${state.id}`;
  const card = at?.closest<HTMLElement>("[data-unit]")?.dataset.unit;
  if (card) return fieldLink(card, "", back);
  const shown = [...document.querySelectorAll("[data-finding]")].findIndex((e) => e.contains(at));
  const finding = state.analysis.findings[Math.max(0, shown)];
  const ask = state.analysis.asks.find((a) => a.finding === finding?.key);
  const unit = ask?.unit ?? finding?.units?.[0];
  return unit && fieldLink(unit, ask?.label, back);
}

type Aside =
  { show: "findings" } | { show: "add" } | { show: "amps" } | { show: "plan" } | { show: "socket"; end: End };

function Work({ id }: { id: string }) {
  const bench = useBench(id);
  const go = useNavigate();
  const client = useQueryClient();
  const [aside, setAside] = useState<Aside>({ show: "findings" });
  const [lit, setLit] = useState(NOTHING);
  const [menu, setMenu] = useState(false);
  const [leaving, setLeaving] = useState(false);
  const [naming, setNaming] = useState(false);
  const [scenes, setScenes] = useState(false);
  const [overview, setOverview] = useState(false);
  /** Narrower, the page scrolls as a whole. */
  const wide = useMedia("(min-width: 1024px)");
  const ample = useMedia("(min-width: 1280px)");
  const chart = useSize();
  const picture = useSize();
  const { state } = bench;
  useEffect(() => {
    if (state) currentHookup.set(id);
  }, [id, state]);

  const change = useStable((changes: Change[]) => {
    bench.change(changes);
    setLit(NOTHING);
  });
  const select = useStable((end: End) => setAside({ show: "socket", end }));
  const light = useStable((finding: Pick<Finding, "units" | "leads"> | null) =>
    setLit(finding ? { units: new Set(finding.units), leads: new Set(finding.leads) } : NOTHING),
  );
  const lightUnits = useStable((units: string[]) =>
    setLit(units.length ? { units: new Set(units), leads: new Set() } : NOTHING),
  );
  const fix = useStable((finding: Finding | undefined) => finding?.fix && change(finding.fix.changes));
  const sought = state?.analysis.findings.some((f) => f.sought) ?? false;
  const numbers = useNumbers(state?.analysis.findings ?? NO_FINDINGS, Boolean(bench.held?.length));
  /** A fix that was asked for by its number before the fixes were there: it is put on when they are. */
  const [early, setEarly] = useState<{ number: number; saves: number; held?: Change[] }>();
  const fixNumber = (number: number) => {
    if (!state) return;
    if (sought) setEarly({ number, saves: state.saves, held: bench.held });
    else fix(numbered(state.analysis.findings, numbers, number));
  };
  useEffect(() => {
    if (!early || !state) return;
    const same = early.saves === state.saves && early.held === bench.held;
    if (sought && same) return;
    setEarly(undefined);
    if (same) fix(numbered(state.analysis.findings, numbers, early.number));
  }, [early, state, sought, fix, numbers, bench.held]);
  const digits = Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => [String(n), () => fixNumber(n)]));
  const back = () => {
    const end = aside.show === "socket" ? aside.end : undefined;
    setAside({ show: "findings" });
    if (end) document.querySelector<HTMLElement>(`[data-socket="${end.unit}/${end.socket}"]`)?.focus();
  };
  const open = (what: Aside) => {
    setOverview(false);
    setAside(what);
  };
  useKeys({
    u: bench.undo,
    U: bench.redo,
    j: () => walk(1),
    k: () => walk(-1),
    a: () => open({ show: "add" }),
    o: () => setMenu(true),
    s: () => setScenes(true),
    v: () => setOverview(!overview),
    w: () => (bench.held ? bench.letGo(false) : bench.hold()),
    f: () => open({ show: "plan" }),
    e: () => {
      const to = state && fieldAtHand(state);
      if (to) void go(to);
    },
    Escape: back,
    ...digits,
  });

  if (bench.query.error) {
    return (
      <div>
        <Failed error={bench.query.error} retry={() => void bench.query.refetch()} />
        <p className="px-4">
          <Button onClick={() => setMenu(true)}>Choose another hook-up</Button>
        </p>
        {menu && <HookupMenu onClose={() => setMenu(false)} />}
      </div>
    );
  }
  if (!state) return <Loading what="the hook-up" />;
  const columns = new Set(state.units.map((u) => u.column)).size;
  const folded = wide && !ample && wantsWidth(columns, window.innerWidth - ASIDE);
  const pinned = state.units.filter((u) => u.pinned).length;
  return (
    <Standing value={{ hookup: id, saves: state.saves, held: bench.held ?? NO_CHANGES }}>
      <div data-saves={state.saves} className="flex h-full flex-col overflow-y-auto lg:overflow-hidden">
        <Verdict
          verdict={state.analysis.verdict}
          facts={state.analysis.facts}
          before={bench.before?.analysis}
        />
        {bench.held && <WhatIf bench={bench} state={state} />}
        <Notices bench={bench} state={state} at="bench" />
        <div className="flex flex-col lg:min-h-0 lg:flex-1 lg:flex-row">
          <div className="flex min-w-0 flex-col lg:min-h-0 lg:flex-1">
            <Toolbar
              bench={bench}
              state={state}
              overview={overview}
              onOverview={() => setOverview(!overview)}
              onChoose={() => setMenu(true)}
              onAdd={() => open({ show: "add" })}
              onFind={() => open({ show: "plan" })}
              onName={() => setNaming(true)}
              onScenes={() => setScenes(true)}
              onOtherAmp={() => open({ show: "amps" })}
              onPutAway={() => setLeaving(true)}
            />
            {state.analysis.scenes.length > 0 && (
              <SceneStrip state={state} onChange={change} onTable={() => setScenes(true)} />
            )}
            {pinned > 0 && (
              <p className="shrink-0 px-5 pb-1 text-[12px] text-ink-2">
                {pinned} unit{pinned === 1 ? " is" : "s are"} kept as in the take or file, not as in the
                locker.{" "}
                <button type="button" className="underline" onClick={bench.unpin}>
                  Use the locker’s from now on
                </button>
              </p>
            )}
            <div ref={picture.ref} className="min-h-[220px] overflow-auto lg:flex-[3]">
              {state.units.length === 0 ? (
                <Empty title="An empty hook-up">
                  <p>Begin with the amp; then choose what goes into its speaker jack.</p>
                  <Button look="main" onClick={() => open({ show: "add" })}>
                    Add a unit from the locker
                  </Button>
                </Empty>
              ) : (
                <Picture
                  state={state}
                  lit={lit}
                  selected={aside.show === "socket" ? aside.end : undefined}
                  overview={overview}
                  width={picture.width}
                  height={overview || !wide ? Infinity : picture.height}
                  onSelect={select}
                  onChange={change}
                  onCloseUp={() => setOverview(false)}
                />
              )}
            </div>
            {!overview && (
              <div
                ref={chart.ref}
                className="h-[280px] min-h-[210px] overflow-hidden lg:h-auto border-t border-line lg:flex-[2]"
              >
                <Charts
                  state={state}
                  before={bench.before}
                  held={bench.held ?? []}
                  width={chart.width}
                  height={chart.height}
                  onLight={lightUnits}
                />
              </div>
            )}
          </div>
          {!overview && (
            <aside
              className={`flex min-h-[300px] shrink-0 flex-col border-t border-line bg-sheet lg:border-t-0 lg:border-l ${aside.show === "plan" ? "lg:w-[360px] xl:w-[430px]" : folded && aside.show === "findings" ? "lg:w-[200px]" : "lg:w-[300px] xl:w-[348px]"}`}
            >
              {aside.show === "findings" && (
                <Findings
                  state={state}
                  held={bench.held ?? []}
                  busy={bench.busy}
                  numbers={numbers}
                  folded={folded}
                  unmended={bench.unmended}
                  onFix={fix}
                  onChange={change}
                  onLight={light}
                />
              )}
              {aside.show === "plan" && (
                <FindMeOne state={state} onClose={back} onOpen={(made) => void go(`/bench/${made}`)} />
              )}
              {aside.show === "amps" && (
                <OtherAmps
                  state={state}
                  onClose={back}
                  onPut={(changes) => {
                    change(changes);
                    back();
                  }}
                  onCopy={(changes) => void bench.copy(changes).then((made) => go(`/bench/${made}`))}
                />
              )}
              {aside.show === "add" && (
                <AddUnit
                  state={state}
                  onClose={back}
                  onChoose={(changes) => {
                    change(changes);
                    back();
                  }}
                />
              )}
              {aside.show === "socket" && (
                <SocketPanel
                  key={`${aside.end.unit}/${aside.end.socket}`}
                  state={state}
                  held={bench.held ?? []}
                  end={aside.end}
                  onClose={back}
                  onChoose={(changes) => {
                    change(changes);
                    back();
                  }}
                />
              )}
            </aside>
          )}
        </div>
        {menu && <HookupMenu onClose={() => setMenu(false)} />}
        {scenes && <Scenes state={state} onChange={change} onClose={() => setScenes(false)} />}
        {naming && (
          <NameSheet
            state={state}
            onClose={() => setNaming(false)}
            onSave={(changes) => {
              setNaming(false);
              change(changes);
            }}
            onCopy={(changes) => {
              setNaming(false);
              void bench.copy(changes).then((made) => go(`/bench/${made}`));
            }}
          />
        )}
        <Confirm
          open={leaving}
          title={`Put “${state.name}” away?`}
          yes="Put it away"
          onClose={() => setLeaving(false)}
          onYes={() =>
            void answer(
              api.DELETE("/api/hookups/{hookup_id}", {
                params: { path: { hookup_id: id }, query: { saves: state.saves } },
              }),
            ).then(() => {
              currentHookup.clear();
              void client.invalidateQueries({ queryKey: ["hookups"] });
              void go("/bench");
            }, bench.query.refetch)
          }
        >
          It leaves the list of hook-ups. Takes made with it stay in the log and can still be recalled.
        </Confirm>
      </div>
    </Standing>
  );
}

export default function Bench() {
  const { hookupId } = useParams();
  return hookupId ? <Work key={hookupId} id={hookupId} /> : <Choose at="bench" none={<First />} />;
}
