import { useReach } from "../live/useLive";
import { isKeptHere } from "./keepHere";

/** While the server does not answer: what that means for what is on the page. */
export function OutOfReach({ isDesk }: { isDesk: boolean }) {
  const reach = useReach();
  if (reach !== "lost") return null;
  return (
    <p role="alert" className="no-print shrink-0 border-b border-caution bg-flood px-4 py-1.5 font-semibold">
      {isDesk
        ? "Low Tide’s server does not answer. Is it still running?"
        : "Low Tide is out of reach: no network, or it is not shared any more."}{" "}
      What is shown is as it was last. Ticks and readings of the run sheet are held here until it answers.
      {!isKeptHere() && " Keep this page open: to load it again, the server must be reached."}
    </p>
  );
}
