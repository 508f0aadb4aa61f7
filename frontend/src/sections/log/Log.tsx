import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useDeferredValue, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { answer, api, type Session } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { useKeys } from "../../parts/keys";
import { VerdictMark } from "../../parts/Mark";
import { Empty, Failed, Loading } from "../../parts/states";
import { Against } from "./Against";
import { DayStrip } from "./DayStrip";
import { Lines } from "./Lines";
import { level, TakeDetail } from "./TakeDetail";
import { TakeForm } from "./TakeForm";

function NewSession({ onMade }: { onMade: (session: Session) => void }) {
  const [name, setName] = useState("");
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: () => answer(api.POST("/api/sessions", { body: { name, notes: "" } })),
    onSuccess: (session) => {
      setName("");
      void client.invalidateQueries({ queryKey: ["sessions"] });
      onMade(session);
    },
  });
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <TextInput
        aria-label="Name of the new session"
        placeholder="Name a new session …"
        maxLength={120}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <Button type="submit" disabled={!name.trim() || make.isPending} className="shrink-0">
        <Plus size={14} /> Session
      </Button>
      {make.error && <Failed error={make.error} />}
    </form>
  );
}

function walk(by: number) {
  const all = [...document.querySelectorAll<HTMLElement>("[data-take]")];
  const at = all.findIndex((e) => e === document.activeElement);
  all[Math.min(all.length - 1, Math.max(0, at + by))]?.focus();
}

export default function Log() {
  const { takeId, otherId } = useParams();
  const against = otherId ? Number(otherId) : undefined;
  const [params, setParams] = useSearchParams();
  const go = useNavigate();
  const [words, setWords] = useState("");
  const [audio, setAudio] = useState(false);
  const search = useDeferredValue(words);
  const sessions = useQuery({ queryKey: ["sessions"], queryFn: () => answer(api.GET("/api/sessions")) });
  const all = sessions.data?.sessions ?? [];
  const session = params.get("session") ? Number(params.get("session")) : undefined;
  const page = Number(params.get("page") ?? 1) || 1;
  const takes = useQuery({
    queryKey: ["takes", session, search, audio, page],
    queryFn: () => answer(api.GET("/api/takes", { params: { query: { session, search, audio, page } } })),
    placeholderData: keepPreviousData,
  });
  const take = useQuery({
    queryKey: ["take", takeId],
    queryFn: () => answer(api.GET("/api/takes/{take_id}", { params: { path: { take_id: Number(takeId) } } })),
    enabled: takeId !== undefined,
  });
  const writing = params.get("take");
  const into = all.find((s) => s.id === session) ?? all[0];
  const set = (changes: Record<string, string | null>) => {
    const next = new URLSearchParams(params);
    for (const [key, value] of Object.entries(changes)) {
      if (value === null) next.delete(key);
      else next.set(key, value);
    }
    setParams(next);
  };
  const query = params.toString() ? `?${params.toString()}` : "";
  // While the sessions are still being read the wish is kept: the form opens as soon as one is there.
  const start = () => (into ?? sessions.isPending) && set({ take: "new" });
  const close = () => set({ take: null, hookup: null });
  useKeys({ n: () => start(), j: () => walk(1), k: () => walk(-1), Escape: close });
  const open = (id: number) => {
    const next = new URLSearchParams(params);
    next.delete("take");
    next.delete("hookup");
    void go(`/log/${id}?${next.toString()}`);
  };
  const list = takes.data?.takes ?? [];
  const exportQuery = session === undefined ? "" : `?session=${session}`;
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto md:flex-row md:overflow-hidden">
      <section aria-label="Takes" className="flex min-w-0 flex-col md:min-h-0 md:flex-1">
        <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-4 py-2.5">
          <select
            aria-label="Session"
            className="max-w-[240px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
            value={session ?? ""}
            onChange={(event) => set({ session: event.target.value || null, page: null })}
          >
            <option value="">every session</option>
            {all.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name} ({s.takes})
              </option>
            ))}
          </select>
          <TextInput
            aria-label="Filter takes"
            placeholder="Filter by words …"
            className="!w-[180px]"
            value={words}
            onChange={(event) => {
              setWords(event.target.value);
              if (params.has("page")) set({ page: null });
            }}
          />
          <label className="flex items-center gap-1.5 text-[13px]">
            <input
              type="checkbox"
              className="accent-[var(--deep)]"
              checked={audio}
              onChange={(e) => setAudio(e.target.checked)}
            />
            with audio
          </label>
          <span className="ml-auto flex items-center gap-1 text-[13px]">
            Export
            <a
              className="rounded px-1.5 py-1 text-deep underline hover:bg-faint"
              href={`/api/log.csv${exportQuery}`}
              download
            >
              CSV
            </a>
            <a
              className="rounded px-1.5 py-1 text-deep underline hover:bg-faint"
              href={`/api/log.json${exportQuery}`}
              download
            >
              JSON
            </a>
          </span>
          <Button look="main" disabled={!into} onClick={start}>
            <Plus size={15} /> New take
          </Button>
        </div>
        <DayStrip takes={list} current={take.data?.id} onOpen={open} />
        <div className="md:min-h-0 md:flex-1 md:overflow-y-auto">
          {takes.isLoading && <Loading what="the log" />}
          {(takes.error ?? sessions.error) && (
            <Failed error={takes.error ?? sessions.error} retry={() => void takes.refetch()} />
          )}
          {list.length > 0 && (
            <table className="w-full text-[13.5px]">
              <thead>
                <tr className="text-left text-[12px] text-ink-2">
                  {["Take", "Part", "Hook-up", "Peak", "Loudness"].map((head, i) => (
                    <th
                      key={head}
                      className={`px-3 py-1.5 font-medium ${i === 0 ? "pl-4" : i === 4 ? "pr-4" : ""} ${i > 2 ? "text-right" : ""} ${i > 0 && i !== 3 ? "max-sm:hidden" : ""}`}
                    >
                      {head}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {list.map((each) => (
                  <tr
                    key={each.id}
                    className={`border-t border-line ${String(each.id) === takeId ? "bg-shoal" : "hover:bg-faint"}`}
                  >
                    <td className="py-1.5 pr-3 pl-4">
                      <Link to={`/log/${each.id}${query}`} data-take className="font-semibold">
                        {each.number}. {each.note.name}
                      </Link>
                    </td>
                    <td className="px-3 text-ink-2 max-sm:hidden">{each.note.part}</td>
                    <td className="px-3 max-sm:hidden">
                      <span className="flex items-center gap-1.5">
                        <VerdictMark severity={each.severity} size={14} /> {each.hookup}
                      </span>
                    </td>
                    <td className="px-3 text-right whitespace-nowrap">
                      {level(each.measures?.peak_dbfs ?? each.note.measured_peak, "dBFS")}
                    </td>
                    <td className="px-3 pr-4 text-right whitespace-nowrap max-sm:hidden">
                      {each.measures ? level(each.measures.loudness_lufs, "LUFS") : "no audio"}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {takes.data && list.length === 0 && (
            <Empty
              title={
                words || audio ? "No take is like that" : all.length ? "No takes yet" : "The log is empty"
              }
            >
              {words || audio ? (
                "Try fewer words."
              ) : all.length ? (
                <Button look="main" onClick={start}>
                  Log the first take
                </Button>
              ) : (
                "Name a session below, then log its first take."
              )}
            </Empty>
          )}
          {(takes.data?.pages ?? 1) > 1 && (
            <nav aria-label="Pages" className="flex items-center justify-center gap-3 p-3">
              <Button disabled={page <= 1} onClick={() => set({ page: String(page - 1) })}>
                Newer
              </Button>
              page {takes.data?.page} of {takes.data?.pages}
              <Button
                disabled={page >= (takes.data?.pages ?? 1)}
                onClick={() => set({ page: String(page + 1) })}
              >
                Older
              </Button>
            </nav>
          )}
        </div>
        <Lines session={session} />
        <div className="shrink-0 border-t border-line px-4 py-2">
          <NewSession onMade={(made) => set({ session: String(made.id), page: null })} />
        </div>
      </section>
      <section
        aria-label="The take"
        className="shrink-0 overflow-y-auto border-t border-line bg-sheet md:w-[440px] md:border-t-0 md:border-l"
      >
        {writing === "new" && into ? (
          <TakeForm
            session={into}
            before={list[0]}
            hookup={params.get("hookup") ?? currentHookup.get()}
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
