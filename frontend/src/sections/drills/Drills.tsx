import { useParams } from "react-router";
import { Failed, Loading } from "../../parts/states";
import { Score } from "./Score";
import { Sitting } from "./Sitting";
import { Start } from "./Start";
import { useDrills } from "./useDrills";

function Overview() {
  const drills = useDrills();
  if (drills.error) return <Failed error={drills.error} retry={() => void drills.refetch()} />;
  if (!drills.data) return <Loading what="the drills" />;
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:flex-row lg:overflow-hidden">
      <div className="shrink-0 lg:w-[520px] lg:overflow-y-auto lg:border-r lg:border-line">
        <Start key={drills.data.source} state={drills.data} />
      </div>
      <section aria-label="Score" className="min-w-0 flex-1 lg:overflow-y-auto">
        <Score state={drills.data} />
      </section>
    </div>
  );
}

export default function Drills() {
  const { sittingId } = useParams();
  const id = Number(sittingId);
  if (sittingId === undefined) return <Overview />;
  return Number.isInteger(id) && id > 0 ? <Sitting key={id} id={id} /> : <Overview />;
}
