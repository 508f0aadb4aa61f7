import { ArrowLeft, Plus } from "lucide-react";
import { useState, type ReactNode } from "react";
import { useNavigate, useParams } from "react-router";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Session } from "../../api/client";
import { Button } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { useKeys } from "../../parts/keys";
import { NameIt } from "../../parts/NameIt";
import { Empty, Failed, Loading } from "../../parts/states";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { Against } from "./Against";
import { Decisions } from "./Decisions";
import { Dropped } from "./Dropped";
import { Filters } from "./Filters";
import { Guides } from "./Guides";
import { Lines } from "./Lines";
import { Notice } from "./Notice";
import { SessionMenu } from "./SessionMenu";
import { SessionSheet } from "./SessionSheet";
import { TakeDetail } from "./TakeDetail";
import { TakeForm } from "./TakeForm";
import { Takes } from "./Takes";
import { dateOf, dayWords, useAsked, useNarrowing, useSessions, useTakes } from "./useLog";
import { Watch } from "./Watch";

function NewSession({
  look,
  children,
  onMade,
}: {
  look?: "main";
  children: ReactNode;
  onMade: (session: Session) => void;
}) {
  const [asking, setAsking] = useState(false);
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: (name: string) => answer(api.POST("/api/sessions", { body: { name, notes: "" } })),
    onSuccess: (session) => {
      void client.invalidateQueries({ queryKey: ["sessions"] });
      onMade(session);
    },
  });
  return (
    <>
      <Button look={look} disabled={make.isPending} onClick={() => setAsking(true)}>
        {children}
      </Button>
      {asking && (
        <NameIt
          title="A new session"
          name=""
          yes="Begin it"
          onName={(name) => make.mutate(name)}
          onClose={() => setAsking(false)}
        />
      )}
      {make.error && <Failed error={make.error} />}
    </>
  );
}

function walk(by: number) {
  const all = [...document.querySelectorAll<HTMLElement>("[data-take]")];
  const at = all.findIndex((e) => e === document.activeElement);
  all[Math.min(all.length - 1, Math.max(0, at + by))]?.focus();
}

/** A session of the log to look at, or all of them; with its days. */
function Heading({
  sessions,
  session,
  onSession,
  onDay,
}: {
  sessions: Session[];
  session?: number;
  onSession: (id: string) => void;
  onDay: (date: string) => void;
}) {
  const days = sessions.find((s) => s.id === session)?.days ?? [];
  return (
    <>
      <select
        aria-label="Session"
        className="max-w-[240px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
        value={session ?? ""}
        onChange={(event) => onSession(event.target.value)}
      >
        <option value="">every session</option>
        {sessions.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name} ({s.takes})
          </option>
        ))}
      </select>
      {days.length > 1 && (
        <select
          aria-label="Day of the session"
          className="rounded-md border border-line bg-sheet px-2 py-1 text-[13px]"
          value=""
          onChange={(event) => event.target.value && onDay(event.target.value)}
        >
          <option value="">{days.length} days …</option>
          {days.map((day) => (
            <option key={day} value={day}>
              {dayWords(day)}
            </option>
          ))}
        </select>
      )}
    </>
  );
}

const LINK = "inline-flex items-center justify-center rounded px-1.5 py-1 text-deep underline hover:bg-faint";

export default function LogOrSheet() {
  const { sessionId, noticeOf } = useParams();
  if (noticeOf) return <Notice hookup={noticeOf} />;
  return sessionId ? <SessionSheet session={Number(sessionId)} /> : <Log />;
}

function Log() {
  const { takeId, otherId } = useParams();
  const against = otherId ? Number(otherId) : undefined;
  const { params, of, asked, set, narrowed, clear } = useAsked();
  const go = useNavigate();
  const sessions = useSessions();
  const all = sessions.data?.sessions ?? [];
  const { session } = asked;
  const takes = useTakes(asked);
  const guides = useNarrowing().data?.open_guides.length ?? 0;
  const take = useQuery({
    queryKey: ["take", takeId],
    queryFn: () => answer(api.GET("/api/takes/{take_id}", { params: { path: { take_id: Number(takeId) } } })),
    enabled: takeId !== undefined,
  });
  const writing = of("take");
  const into = all.find((s) => s.id === session) ?? all[0];
  const query = params.toString() ? `?${params.toString()}` : "";
  // While the sessions are still being read the wish is kept: the form opens as soon as one is there.
  const start = () => (into ?? sessions.isPending) && set({ take: "new" });
  const close = () => set({ take: "", hookup: "", replaces: "" });
  /** Where there is no room for both, the take takes the place of the list. */
  const opened = takeId !== undefined || writing !== "";
  const back = () => {
    const next = new URLSearchParams(params);
    for (const name of ["take", "hookup", "replaces"]) next.delete(name);
    void go(`/log?${next.toString()}`);
  };
  useKeys({ n: () => start(), j: () => walk(1), k: () => walk(-1), Escape: close });
  const open = (id: number) => {
    const next = new URLSearchParams(params);
    for (const name of ["take", "hookup", "replaces", "day"]) next.delete(name);
    void go(`/log/${id}?${next.toString()}`);
  };
  const list = takes.data?.takes ?? [];
  const exportQuery = session === undefined ? "" : `?session=${session}`;
  const days = [
    ...new Set(all.filter((s) => session === undefined || s.id === session).flatMap((s) => s.days ?? [])),
  ]
    .toSorted()
    .reverse();
  const day = of("day") || (take.data && dateOf(take.data.at)) || days[0];
  const asks = narrowed > 0 || asked.search !== "";
  const view = of("view") || "takes";
  const { page } = asked;
  const tabs = [
    { id: "takes", name: "Takes" },
    { id: "guides", name: guides ? `Guides to replace, ${guides}` : "Guides to replace" },
    { id: "decisions", name: "Cautions accepted" },
  ];
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:flex-row lg:overflow-hidden">
      <section
        aria-label="Takes"
        className={`flex min-w-0 flex-col lg:min-h-0 lg:flex-1 ${opened ? "max-lg:hidden" : ""}`}
      >
        <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-4 py-2.5">
          <Heading
            sessions={all}
            session={session}
            onSession={(id) => set({ session: id, day: "" })}
            onDay={(date) => set({ day: date })}
          />
          <NewSession onMade={(made) => set({ session: String(made.id) })}>
            <Plus size={14} /> Session
          </NewSession>
          <SessionMenu
            session={into}
            onSession={(id) => set({ session: id === undefined ? "" : String(id), day: "" })}
          />
          <span className="ml-auto flex items-center gap-1 text-[13px]">
            Export
            <a className={LINK} href={`/api/log.csv${exportQuery}`} download>
              CSV
            </a>
            <a className={LINK} href={`/api/log.json${exportQuery}`} download>
              JSON
            </a>
          </span>
          <Button look="main" disabled={!into} onClick={start}>
            <Plus size={15} /> New take
          </Button>
        </div>
        {day && (
          <Watch
            date={day}
            days={days}
            current={take.data?.id}
            onOpen={open}
            onDay={(date) => set({ day: date })}
          />
        )}
        <Dropped onShow={open}>
          <Tabbed at={view} onTab={(next) => set({ view: next === "takes" ? "" : next })}>
            <div className="flex min-w-0 flex-col lg:min-h-0 lg:flex-1">
              <TabRow label="The log as" tabs={tabs} className="shrink-0 px-4 pt-2" />
              <TabPanel at="takes" className="lg:min-h-0 lg:flex-1 lg:overflow-y-auto">
                <Filters asked={asked} narrowed={narrowed} onSet={set} onClear={clear} />
                {takes.isLoading && <Loading what="the log" />}
                {(takes.error ?? sessions.error) && (
                  <Failed error={takes.error ?? sessions.error} retry={() => void takes.refetch()} />
                )}
                {list.length > 0 && <Takes list={list} current={takeId} query={query} />}
                {takes.data && list.length === 0 && (
                  <Empty
                    title={asks ? "No take is like that" : all.length ? "No takes yet" : "The log is empty"}
                  >
                    {asks ? (
                      <>
                        Try fewer words, or a wider choice.
                        <Button onClick={clear}>Show all</Button>
                      </>
                    ) : all.length ? (
                      <Button look="main" onClick={start}>
                        Log the first take
                      </Button>
                    ) : (
                      <>
                        A session holds the takes of an evening, or of a record.
                        <NewSession
                          look="main"
                          onMade={(made) => set({ session: String(made.id), take: "new" })}
                        >
                          Begin a session
                        </NewSession>
                      </>
                    )}
                  </Empty>
                )}
                {(takes.data?.pages ?? 1) > 1 && (
                  <nav aria-label="Pages" className="flex items-center justify-center gap-3 p-3">
                    <Button disabled={page <= 1} onClick={() => set({ page: String(page - 1) })}>
                      Newer
                    </Button>
                    page {takes.data?.page} of {takes.data?.pages}, {takes.data?.total} takes
                    <Button
                      disabled={page >= (takes.data?.pages ?? 1)}
                      onClick={() => set({ page: String(page + 1) })}
                    >
                      Older
                    </Button>
                  </nav>
                )}
              </TabPanel>
              <TabPanel at="guides" className="pt-2 lg:min-h-0 lg:flex-1 lg:overflow-y-auto">
                <Guides query={query} onReplace={(guide) => set({ take: "new", replaces: String(guide) })} />
              </TabPanel>
              <TabPanel at="decisions" className="pt-2 lg:min-h-0 lg:flex-1 lg:overflow-y-auto">
                <Decisions query={query} />
              </TabPanel>
            </div>
          </Tabbed>
        </Dropped>
        <Lines session={session} />
      </section>
      <section
        aria-label="The take"
        className={`shrink-0 border-line bg-sheet lg:w-[440px] lg:overflow-y-auto lg:border-l ${opened ? "max-lg:min-h-full" : "max-lg:hidden"}`}
      >
        <Button look="quiet" className="no-print m-2 lg:hidden" onClick={back}>
          <ArrowLeft size={16} /> All takes
        </Button>
        {writing === "new" && into ? (
          <TakeForm
            key={of("replaces")}
            session={into}
            before={list[0]}
            replaces={Number(of("replaces")) || undefined}
            hookup={of("hookup") || currentHookup.get()}
            onDone={(made) => open(made.id)}
            onClose={close}
          />
        ) : writing === "edit" && take.data && into ? (
          <TakeForm
            key={take.data.id}
            session={into}
            take={take.data}
            hookup={null}
            onDone={(made) => open(made.id)}
            onClose={close}
          />
        ) : take.error ? (
          <Failed error={take.error} />
        ) : take.data ? (
          against ? (
            <Against
              take={take.data.id}
              other={against}
              back={`/log/${take.data.id}${query}`}
              onTurn={() => void go(`/log/${against}/against/${take.data.id}${query}`)}
            />
          ) : (
            <TakeDetail
              take={take.data}
              others={list.filter((each) => each.id !== take.data.id)}
              onAgainst={(id) => void go(`/log/${take.data.id}/against/${id}${query}`)}
              onEdit={() => set({ take: "edit" })}
            />
          )
        ) : (
          <Empty title="A sound that comes back">
            Choose a take to see how it was made, and to open its hook-up as it was.
          </Empty>
        )}
      </section>
    </div>
  );
}
