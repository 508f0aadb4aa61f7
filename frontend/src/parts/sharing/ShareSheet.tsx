import { useState } from "react";
import { Button } from "../controls";
import { Sheet } from "../Sheet";
import { Failed, Loading } from "../states";
import { Code } from "./Code";
import { Devices } from "./Devices";
import { SCOPES, useSharing, useSharingActs, type Scope, type Sharing } from "./useSharing";

/** What anybody on the network can do, in plain words. */
function Plainly({ encrypted }: { encrypted: boolean }) {
  return encrypted ? (
    <p className="mt-2 text-[13px] text-ink-2">
      What goes over the network is encrypted by the certificate that the server was started with.
    </p>
  ) : (
    <p className="mt-2 rounded-md border border-caution px-3 py-2 text-[13px]">
      <b>Not encrypted.</b> Anybody on this network can listen in, and can do with what he heard whatever the
      device may. Use a network of your own, or start the server with a certificate (<code>--cert</code>,{" "}
      <code>--key</code>).
    </p>
  );
}

function Where({ sharing, onShare }: { sharing: Sharing; onShare: (addresses: string[]) => void }) {
  const listening = sharing.listening.map((each) => each.address);
  const usual = sharing.addresses.filter((each) => each.private).slice(0, 1);
  const [chosen, setChosen] = useState(() => (sharing.on ? listening : usual.map((each) => each.address)));
  const stop = sharing.on && <Button onClick={() => onShare([])}>Stop sharing</Button>;
  if (sharing.addresses.length === 0)
    return (
      <>
        <p className="mb-2">This machine is on no network. Join one; it is then named here.</p>
        {stop}
      </>
    );
  const changed = chosen.toSorted().join() !== listening.toSorted().join();
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">At which of this machine’s addresses</legend>
      {sharing.addresses.map((each) => (
        <label key={each.address} className="flex min-h-[28px] items-center gap-2">
          <input
            type="checkbox"
            className="size-[16px]"
            checked={chosen.includes(each.address)}
            onChange={(event) =>
              setChosen(
                event.target.checked
                  ? [...chosen, each.address]
                  : chosen.filter((other) => other !== each.address),
              )
            }
          />
          <b>{each.address}</b>
          <span className="text-ink-2">
            {each.interface}
            {!each.private && <b className="text-caution"> · not private: it may be reached from outside</b>}
          </span>
        </label>
      ))}
      <div className="mt-2 flex flex-wrap gap-2">
        {(changed || !sharing.on) && (
          <Button look="main" disabled={chosen.length === 0} onClick={() => onShare(chosen)}>
            {sharing.on ? "Share at these instead" : "Share"}
          </Button>
        )}
        {stop}
      </div>
    </fieldset>
  );
}

function Pairing({ sharing, onOpen }: { sharing: Sharing; onOpen: (scope: Scope) => void }) {
  const [scope, setScope] = useState<Scope>("run");
  return (
    <fieldset className="mt-4">
      <legend className="mb-1 font-semibold">Let a device in</legend>
      {(Object.keys(SCOPES) as Scope[]).map((each) => (
        <label key={each} className="flex min-h-[28px] items-center gap-2">
          <input
            type="radio"
            name="scope"
            className="size-[16px]"
            checked={scope === each}
            onChange={() => setScope(each)}
          />
          {SCOPES[each]}
        </label>
      ))}
      {sharing.ended && (
        <p role="status" className="mt-1 text-caution">
          {sharing.ended}
        </p>
      )}
      <Button look="main" className="mt-2" onClick={() => onOpen(scope)}>
        Pair a device
      </Button>
    </fieldset>
  );
}

/** Sharing with devices on the network: where, who, and what each may. At the desk alone. */
export default function ShareSheet({ onClose }: { onClose: () => void }) {
  const query = useSharing(true, true);
  const { share, open, close, shutOut, error } = useSharingActs();
  const sharing = query.data;
  const gone = sharing?.listening.filter((each) => each.gone) ?? [];
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title="Share"
      about="With a tablet by the amp, or a second engineer, on this network. Off until you turn it on, and off again at every start."
    >
      {query.isLoading && <Loading what="what is shared" />}
      {(error ?? query.error) && <Failed error={error ?? query.error} />}
      {sharing && (
        <>
          <Where
            key={sharing.listening.map((each) => each.address).join()}
            sharing={sharing}
            onShare={(addresses) => share.mutate(addresses)}
          />
          {gone.length > 0 && (
            <p role="alert" className="mt-2 font-semibold text-stop">
              This machine is not at {gone.map((each) => each.address).join(", ")} any more, or its network is
              down: devices cannot reach it there. At another address they have to be paired anew.
            </p>
          )}
          {sharing.on && <Plainly encrypted={sharing.encrypted} />}
          {sharing.on && sharing.pairing && (
            <Code
              key={sharing.pairing.code}
              sharing={sharing}
              pairing={sharing.pairing}
              onClose={() => close.mutate()}
            />
          )}
          {sharing.on && !sharing.pairing && (
            <Pairing sharing={sharing} onOpen={(scope) => open.mutate(scope)} />
          )}
          <h2 className="mt-4 mb-1 font-semibold">Devices that were let in</h2>
          <Devices devices={sharing.devices} onShutOut={(id) => shutOut.mutate(id)} />
          {!sharing.on && sharing.devices.length > 0 && (
            <p className="mt-1 text-[13px] text-ink-2">They come in again only while it is shared.</p>
          )}
        </>
      )}
    </Sheet>
  );
}
