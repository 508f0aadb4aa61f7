import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../../api/client";
import { Button, Field, TextInput } from "../controls";
import { Failed } from "../states";

/** What the device is called unless somebody calls it otherwise. */
function guessed(): string {
  const agent = navigator.userAgent;
  const touches = window.matchMedia("(pointer: coarse)").matches;
  if (/Mobile/.test(agent) && Math.min(screen.width, screen.height) < 600) return "Phone";
  return touches ? "Tablet" : "Computer";
}

const inAddress = () => window.location.hash.slice(1);

/** All that a device sees before it is let in: where the code goes. */
export default function Pair() {
  const [code, setCode] = useState(inAddress);
  const [name, setName] = useState(guessed);
  const wasIn = new URLSearchParams(window.location.search).has("out");
  const here = useQuery({ queryKey: ["pair"], queryFn: () => answer(api.GET("/api/pair")), retry: false });
  const goOn = () => window.location.replace("/run");
  const pair = useMutation({
    mutationFn: () => answer(api.POST("/api/pair", { body: { code, name } })),
    onSuccess: goOn,
  });
  const paired = here.data?.paired;
  useEffect(() => {
    if (paired) goOn();
  }, [paired]);
  // A code that was photographed needs no typing, only the say-so; it leaves the address, which may be looked at.
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    document.title = "Pair this device · Low Tide";
    if (!inAddress()) return;
    window.history.replaceState(null, "", window.location.pathname);
    button.current?.focus();
  }, []);
  return (
    <main className="at-arm mx-auto max-w-[440px] p-6">
      <h1 className="text-[26px] font-bold">Pair this device</h1>
      {wasIn && (
        <p role="status" className="mt-2 rounded-md border border-caution px-3 py-2">
          This device is not let in any more, and what it held has been cleared.
        </p>
      )}
      <p className="mt-2 text-ink-2">
        At the desk, choose <b>Share</b>, then <b>Pair a device</b>. The code that is shown there holds for
        two minutes and for one device.
      </p>
      <form
        className="mt-5 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          pair.mutate();
        }}
      >
        <Field label="Code" hint="Eight letters and figures; spaces do not matter.">
          <TextInput
            className="!py-2 font-mono !text-[26px] font-bold tracking-[0.12em] uppercase"
            autoCapitalize="characters"
            autoComplete="one-time-code"
            autoCorrect="off"
            spellCheck={false}
            maxLength={16}
            required
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
        </Field>
        <Field label="What this device is called" hint="So that the desk can tell it from others.">
          <TextInput
            className="!py-2"
            maxLength={40}
            required
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Button
          ref={button}
          type="submit"
          look="main"
          className="justify-center !py-3 !text-[17px]"
          disabled={pair.isPending}
        >
          Pair
        </Button>
      </form>
      <div className="-mx-4 mt-2">
        {(pair.error ?? here.error) && <Failed error={pair.error ?? here.error} />}
      </div>
      {here.data && !here.data.encrypted && (
        <p className="mt-4 text-[13px] text-ink-2">
          This connection is not encrypted: anybody on this network can listen in. On a network that is not
          yours, ask at the desk for one that is.
        </p>
      )}
    </main>
  );
}
