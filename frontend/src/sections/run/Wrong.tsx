import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";
import { Failed, Loading } from "../../parts/states";
import { Searching } from "./Searching";

/** Those that are answered at once stand apart from the others. */
const AT_ONCE = ["danger", "miswired"];

function Choice({ symptom, onChoose }: { symptom: Schemas["Symptom"]; onChoose: () => void }) {
  const danger = symptom.id === "danger";
  return (
    <li>
      <button
        type="button"
        onClick={onChoose}
        className={`flex h-full min-h-[64px] w-full flex-col justify-center rounded-lg border-[1.5px] px-4 py-2 text-left hover:bg-faint ${danger ? "border-stop text-stop" : "border-ink"} bg-sheet`}
      >
        <span className="text-[19px] leading-tight font-bold">{symptom.name}</span>
        {symptom.more && <span className="text-[14px] text-ink-2">{symptom.more}</span>}
      </button>
    </li>
  );
}

function Ask({ id }: { id: string }) {
  const go = useNavigate();
  const client = useQueryClient();
  const symptoms = useQuery({
    queryKey: ["symptoms"],
    queryFn: () => answer(api.GET("/api/faults/symptoms")),
    staleTime: Infinity,
  });
  const path = { params: { path: { hookup_id: id } } };
  const before = useQuery({
    queryKey: ["faults", id],
    queryFn: () => answer(api.GET("/api/hookups/{hookup_id}/faults", path)),
  });
  const begin = useMutation({
    mutationFn: (symptom: string) =>
      answer(api.POST("/api/hookups/{hookup_id}/faults", { ...path, body: { symptom } })),
    onSuccess: (made) => {
      client.setQueryData(["fault", made.id], made);
      const related = [["faults", id], ["suspects"], ["run", id], ["hookup"], ["hookups"], ["lines"]];
      for (const queryKey of related) void client.invalidateQueries({ queryKey });
      tellOtherWindows(...related);
      void go(`/run/${id}/wrong/${made.id}`);
    },
  });
  if (symptoms.error) return <Failed error={symptoms.error} retry={() => void symptoms.refetch()} />;
  if (!symptoms.data) return <Loading what="the symptoms" />;
  const all = symptoms.data.symptoms;
  const open = before.data?.faults.find((each) => !each.ended);
  const ended = before.data?.faults.filter((each) => each.ended) ?? [];
  return (
    <div className="h-full overflow-y-auto bg-sheet">
      <div className="mx-auto max-w-[1180px] px-5 py-4">
        <div className="flex flex-wrap items-baseline gap-3">
          <h2 className="mr-auto text-[28px] font-bold">What is wrong?</h2>
          {open && (
            <Link
              to={`/run/${id}/wrong/${open.id}`}
              className="inline-flex min-h-[24px] items-center text-[16px] font-semibold text-deep underline"
            >
              go on with: {open.symptom_name}
            </Link>
          )}
          <Link to={`/run/${id}`} className="inline-flex min-h-[24px] items-center text-deep underline">
            back to the run sheet
          </Link>
        </div>
        {begin.error && <Failed error={begin.error} />}
        {[
          all.filter((s) => AT_ONCE.includes(s.id)).reverse(),
          all.filter((s) => !AT_ONCE.includes(s.id)),
        ].map((some, i) => (
          <ul key={i} className="mt-3 grid gap-2 sm:grid-cols-2 lg:grid-cols-4">
            {some.map((symptom) => (
              <Choice key={symptom.id} symptom={symptom} onChoose={() => begin.mutate(symptom.id)} />
            ))}
          </ul>
        ))}
        {ended.length > 0 && (
          <section aria-label="Searched before" className="mt-6">
            <h3 className="text-[15px] font-bold">Searched before, with this hook-up</h3>
            <ul className="text-[14px]">
              {ended.slice(0, 6).map((each) => (
                <li key={each.id} className="border-t border-line py-1 first:border-t-0">
                  <Link
                    to={`/run/${id}/wrong/${each.id}`}
                    className="inline-flex min-h-[24px] items-center text-deep underline"
                  >
                    {each.symptom_name}
                  </Link>
                  : {each.found || "not found"}
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </div>
  );
}

/** What is wrong with a hook-up that stands: a symptom, then one test after the other. */
export function Wrong({ id, fault }: { id: string; fault?: string }) {
  return fault ? <Searching key={fault} id={Number(fault)} hookup={id} /> : <Ask id={id} />;
}
