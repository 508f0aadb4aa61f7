import { useQuery } from "@tanstack/react-query";
import { FileText, Printer } from "lucide-react";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";

type Sheet = Schemas["SessionSheet"];

const HEADS = ["Take", "Part", "When", "Hook-up", "Peak", "Played on", "Controls", "Said"];

function Takes({ sheet }: { sheet: Sheet }) {
  return (
    <div className="overflow-x-auto print:overflow-visible">
      <table className="w-full text-[13px]">
        <thead>
          <tr className="border-b-2 border-ink text-left text-[12px]">
            {HEADS.map((head) => (
              <th key={head} className="py-1 pr-3 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sheet.takes.map(({ take, ...said }) => (
            <tr key={take.id} className="break-inside-avoid border-b border-line align-top">
              <td className="py-1 pr-3 font-semibold">
                {take.number}. {take.note.name}
              </td>
              <td className="py-1 pr-3">{take.note.part}</td>
              <td className="py-1 pr-3 whitespace-nowrap">
                {new Date(take.at).toLocaleString("en-GB", {
                  day: "numeric",
                  month: "short",
                  hour: "2-digit",
                  minute: "2-digit",
                })}
              </td>
              <td className="py-1 pr-3">{said.hookup}</td>
              <td className="py-1 pr-3 whitespace-nowrap">{said.peak}</td>
              <td className="py-1 pr-3">{said.played_on}</td>
              <td className="py-1 pr-3">{said.controls}</td>
              <td className="py-1">{said.said}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Hookup({ hookup }: { hookup: Sheet["hookups"][number] }) {
  const lists: [string, string[]][] = [
    ["Leads", hookup.leads],
    ["Settings", hookup.settings],
  ];
  return (
    <section className="mt-4 break-inside-avoid">
      <h3 className="text-[15px] font-bold">{hookup.name}</h3>
      <p className="text-[13px]">
        {hookup.verdict}; take{hookup.takes.length > 1 ? "s" : ""} {hookup.takes.join(", ")}
      </p>
      {hookup.trouble && <p className="text-[13px] font-semibold text-caution">{hookup.trouble}</p>}
      {hookup.accepted.map((a) => (
        <p key={a.caution} className="text-[13px]">
          Accepted: {a.caution} “{a.word}”
        </p>
      ))}
      <div className="mt-1 grid gap-x-8 gap-y-1 text-[13px] sm:grid-cols-2">
        {lists.map(([name, lines]) => (
          <div key={name}>
            <h4 className="text-[12px] font-semibold text-ink-2">{name}</h4>
            <ul className="list-disc pl-4">
              {lines.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </section>
  );
}

/** A session on paper: what was recorded, with which hook-up, and how to get it back. */
export function SessionSheet({ session }: { session: number }) {
  const path = { session_id: session };
  const query = useQuery({
    queryKey: ["takes", "sheet", session],
    queryFn: () => answer(api.GET("/api/sessions/{session_id}/sheet", { params: { path } })),
  });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="the session" />;
  const sheet = query.data;
  return (
    <article className="prints h-full overflow-y-auto bg-sheet">
      <div className="mx-auto max-w-[1100px] px-6 py-5">
        <div className="flex flex-wrap items-center gap-2">
          <h2 className="mr-auto text-[24px] font-bold">{sheet.session.name}</h2>
          <span className="no-print flex items-center gap-1">
            <a
              className="inline-flex items-center rounded-[7px] px-2 py-1 text-ink-2 hover:bg-faint hover:text-ink"
              href={`/api/sessions/${session}/sheet.md`}
              aria-label="Markdown"
              title="Markdown"
            >
              <FileText size={17} />
            </a>
            <Button look="quiet" aria-label="Print" title="Print" onClick={() => window.print()}>
              <Printer size={17} />
            </Button>
            <Link
              to={`/log?session=${session}`}
              className="ml-1 inline-flex min-h-[24px] items-center text-deep underline"
            >
              back to the log
            </Link>
          </span>
        </div>
        <p className="text-ink-2">
          {[
            sheet.who,
            `begun ${new Date(sheet.session.started).toLocaleDateString("en-GB", { dateStyle: "long" })}`,
          ]
            .filter(Boolean)
            .join(", ")}
        </p>
        {sheet.session.notes && <p className="mt-1 whitespace-pre-wrap">{sheet.session.notes}</p>}
        {sheet.left_out > 0 && (
          <p className="mt-1 font-semibold">{sheet.left_out} takes more are not on this sheet.</p>
        )}
        <div className="mt-3">{sheet.takes.length ? <Takes sheet={sheet} /> : <p>No takes yet.</p>}</div>
        {sheet.hookups.length > 0 && (
          <section className="mt-6">
            <h2 className="border-b-2 border-ink text-[18px] font-bold">To get it back</h2>
            <p className="mt-1 text-[12.5px] text-ink-2">{sheet.caution}</p>
            {sheet.hookups.map((hookup) => (
              <Hookup key={hookup.name} hookup={hookup} />
            ))}
          </section>
        )}
        {sheet.lines.length > 0 && (
          <section className="mt-6">
            <h2 className="border-b-2 border-ink text-[18px] font-bold">Noted</h2>
            <ul className="mt-1">
              {sheet.lines.map((line) => (
                <li key={line.id}>
                  {new Date(line.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}:{" "}
                  {line.text}
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </article>
  );
}
