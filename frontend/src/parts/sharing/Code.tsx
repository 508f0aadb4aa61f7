import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../controls";
import { SCOPES, type Sharing } from "./useSharing";

const QUIET_ZONE = 4;

/** Dark on light in both themes: not every camera reads it the other way round. */
function QrPicture({ code }: { code: Schemas["QrCode"] }) {
  const side = code.size + 2 * QUIET_ZONE;
  const dark = code.rows.flatMap((row, y) =>
    [...row].flatMap((cell, x) => (cell === "1" ? [`M${x + QUIET_ZONE} ${y + QUIET_ZONE}h1v1h-1z`] : [])),
  );
  return (
    <svg
      role="img"
      aria-label={`QR code of ${code.says.split("#")[0]}, with the code in it`}
      viewBox={`0 0 ${side} ${side}`}
      className="size-[184px] rounded-md"
      shapeRendering="crispEdges"
    >
      <path d={`M0 0h${side}v${side}h-${side}z`} className="fill-qr-light" />
      <path d={dark.join("")} className="fill-qr-dark" />
    </svg>
  );
}

/** An open pairing: the code to type, the same to photograph, and how long it holds. */
export function Code({
  sharing,
  pairing,
  onClose,
}: {
  sharing: Sharing;
  pairing: NonNullable<Sharing["pairing"]>;
  onClose: () => void;
}) {
  const codes = useQuery({
    queryKey: ["sharing-qr", pairing.code, sharing.listening.map((each) => each.url)],
    queryFn: () => answer(api.GET("/api/sharing/pairing/qr")),
  });
  const [left, setLeft] = useState(pairing.seconds);
  useEffect(() => {
    const end = performance.now() + 1000 * pairing.seconds;
    const tell = () => setLeft(Math.max(0, (end - performance.now()) / 1000));
    tell();
    const timer = setInterval(tell, 500);
    return () => clearInterval(timer);
  }, [pairing.seconds]);
  return (
    <section aria-label="A device may come in" className="mt-3 rounded-lg border-[1.5px] border-ink p-4">
      <div className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <div className="min-w-[200px] flex-1">
          <p>
            On the device, open{" "}
            {sharing.listening.map((each, i) => (
              <span key={each.url}>
                {i > 0 && " or "}
                <b className="break-all">{each.url}pair</b>
              </span>
            ))}{" "}
            and type this code, or take its picture.
          </p>
          <p className="my-3 font-mono text-[34px] leading-none font-bold tracking-[0.12em]">
            {pairing.code.slice(0, 4)} {pairing.code.slice(4)}
          </p>
          <p className="text-ink-2">
            For one device, {Math.ceil(left)} s more. It may: {SCOPES[pairing.scope]}.
          </p>
          <Button className="mt-3" onClick={onClose}>
            Let nobody in
          </Button>
        </div>
        {codes.data?.codes.map((code) => (
          <figure key={code.says} className="m-0 text-center">
            <QrPicture code={code} />
            {sharing.listening.length > 1 && (
              <figcaption className="mt-1 text-[12px] text-ink-2">{new URL(code.says).hostname}</figcaption>
            )}
          </figure>
        ))}
      </div>
    </section>
  );
}
