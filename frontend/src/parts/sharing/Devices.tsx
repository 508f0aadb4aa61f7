import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Confirm } from "../Confirm";
import { Button } from "../controls";
import { SCOPES } from "./useSharing";

type Device = Schemas["Device"];

const when = (stamp: string) =>
  new Date(stamp).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** The devices that were let in, and the way to shut one out. */
export function Devices({
  devices,
  onShutOut,
}: {
  devices: readonly Device[];
  onShutOut: (id: string) => void;
}) {
  const [doomed, setDoomed] = useState<Device>();
  if (devices.length === 0) return <p className="text-ink-2">None yet.</p>;
  return (
    <>
      <ul>
        {devices.map((device) => (
          <li
            key={device.id}
            className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-line py-1.5"
          >
            <span className="min-w-0 flex-1">
              <b>{device.name}</b>{" "}
              <span className="text-ink-2">
                {SCOPES[device.scope]};{" "}
                {device.here ? `here now, ${device.address}` : `last seen ${when(device.seen)}`}
              </span>
            </span>
            <Button aria-label={`Shut out ${device.name}`} onClick={() => setDoomed(device)}>
              Shut out
            </Button>
          </li>
        ))}
      </ul>
      <Confirm
        open={doomed !== undefined}
        title={`Shut ${doomed?.name ?? ""} out?`}
        yes="Shut it out"
        onClose={() => setDoomed(undefined)}
        onYes={() => doomed && onShutOut(doomed.id)}
      >
        It sees nothing more from now on, and what it holds is cleared when it next asks. Ticks that it holds
        without a network are lost.
      </Confirm>
    </>
  );
}
