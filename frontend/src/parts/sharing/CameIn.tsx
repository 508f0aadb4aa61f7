import { useState } from "react";
import { Button } from "../controls";
import { SCOPES, useSharing, useSharingActs, type Sharing } from "./useSharing";

/** At the desk, wherever one is: the address that is shared at has gone. */
function Gone({ sharing }: { sharing: Sharing }) {
  const gone = sharing.listening.filter((each) => each.gone);
  if (gone.length === 0) return null;
  return (
    <p role="alert" className="no-print shrink-0 border-b border-caution bg-flood px-4 py-1.5 font-semibold">
      This machine is not at {gone.map((each) => each.address).join(", ")} any more, or its network is down:
      devices cannot reach it there.
    </p>
  );
}

/** At the desk, wherever one is: a device has just been let in, and may be refused after all. */
export function CameIn() {
  const { data } = useSharing(true, false);
  const { shutOut } = useSharingActs();
  const [known, setKnown] = useState("");
  const newest = data?.newest;
  if (!newest || newest.id === known) return data ? <Gone sharing={data} /> : null;
  return (
    <div
      role="alert"
      className="no-print flex shrink-0 flex-wrap items-center gap-3 border-b border-line bg-shoal px-4 py-1.5"
    >
      <span>
        <b>{newest.name}</b> has come in from {newest.address}. It may: {SCOPES[newest.scope]}.
      </span>
      <Button onClick={() => setKnown(newest.id)}>That is mine</Button>
      <Button look="danger" onClick={() => shutOut.mutate(newest.id)}>
        Refuse it
      </Button>
    </div>
  );
}
