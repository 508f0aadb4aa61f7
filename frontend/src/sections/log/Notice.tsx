import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { Button, Field, TextInput } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";

type Theirs = Schemas["AtTheirs"];

/** How loud it comes to be at a place, as a neighbour would say it. */
const loud = (p: Theirs) =>
  p.most === null
    ? `it cannot be told how loud (${p.why})`
    : `at most about ${Math.ceil(p.most)} dBA, ${p.words}`;

/** A notice for neighbours: when, how loud at theirs in words and dBA, whom to ring. Nothing typed here is kept. */
export function Notice({ hookup }: { hookup: string }) {
  const query = useQuery({
    queryKey: ["notice", hookup],
    queryFn: () =>
      answer(api.GET("/api/hookups/{hookup_id}/notice", { params: { path: { hookup_id: hookup } } })),
  });
  const [typed, setTyped] = useState({ day: "", from: "", until: "", who: "", ring: "" });
  const [place, setPlace] = useState("");
  const set = (change: Partial<typeof typed>) => setTyped({ ...typed, ...change });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="the notice" />;
  const { places, hour } = query.data;
  const there = places.find((p) => p.place === place) ?? places[0];
  const from = typed.from || hour;
  const day = typed.day
    ? new Date(`${typed.day}T12:00`).toLocaleDateString("en-GB", {
        weekday: "long",
        day: "numeric",
        month: "long",
      })
    : "………………";
  const fields = [
    ["day", "Day", "date"],
    ["from", "From", "time"],
    ["until", "Until", "time"],
    ["who", "Your name", "text"],
    ["ring", "Number to ring", "tel"],
  ] as const;
  return (
    <article className="prints h-full overflow-y-auto bg-sheet">
      <div className="mx-auto max-w-[760px] px-6 py-5">
        <div className="no-print mb-6 border-b border-line pb-4">
          <div className="flex flex-wrap items-center gap-2">
            <h2 className="mr-auto text-[20px] font-bold">A notice for neighbours</h2>
            <Button look="main" onClick={() => window.print()}>
              <Printer size={15} /> Print
            </Button>
            <Link to="/log" className="inline-flex min-h-[24px] items-center text-deep underline">
              back to the log
            </Link>
          </div>
          <p className="mt-1 text-[13px] text-ink-2">
            By “{query.data.name}” as it stands. What you type here is printed and not kept.
          </p>
          <div className="mt-2 grid gap-3 sm:grid-cols-3">
            {fields.map(([name, label, type]) => (
              <Field key={name} label={label}>
                <TextInput
                  type={type}
                  maxLength={80}
                  value={name === "from" ? from : typed[name]}
                  onChange={(e) => set({ [name]: e.target.value })}
                />
              </Field>
            ))}
            <Field label="For">
              <select
                className="w-full rounded-md border border-line bg-sheet px-2 py-1"
                value={there?.place ?? ""}
                onChange={(e) => setPlace(e.target.value)}
              >
                {places.map((p) => (
                  <option key={p.place} value={p.place}>
                    {p.name}
                  </option>
                ))}
              </select>
            </Field>
          </div>
        </div>
        {there ? (
          <section aria-label="The notice" className="text-[19px] leading-relaxed">
            <h1 className="mb-4 text-[30px] font-bold">We will play music</h1>
            <p>
              on <b>{day}</b>, from <b>{from || "………"}</b> to <b>{typed.until || "………"}</b>.
            </p>
            <p className="mt-3">
              At yours ({there.name}) we expect <b>{loud(there)}</b>. That is an estimate.
            </p>
            <p className="mt-3">
              Should it disturb you, ring <b>{typed.ring || "………………"}</b>
              {typed.who && (
                <>
                  {" "}
                  and ask for <b>{typed.who}</b>
                </>
              )}
              : we turn it down at once.
            </p>
            <p className="mt-6">Thank you{typed.who ? `, ${typed.who}` : ""}</p>
          </section>
        ) : (
          <p>There is no place of a neighbour yet: add one in the Locker, as a place.</p>
        )}
      </div>
    </article>
  );
}
