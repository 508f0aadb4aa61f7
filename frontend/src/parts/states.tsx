import type { ReactNode } from "react";
import { Link } from "react-router";
import { Refusal } from "../api/client";
import { Button } from "./controls";
import { ForAll } from "./sharing/ForAll";

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-6 text-ink-2">
      Reading {what} …
    </p>
  );
}

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mx-auto max-w-md p-8 text-center">
      <p className="text-[16px] font-semibold">{title}</p>
      <div className="mt-2 flex flex-col items-center gap-3 text-ink-2">{children}</div>
    </div>
  );
}

const bringIntoSight = (told: HTMLElement | null) => told?.scrollIntoView({ block: "nearest" });

/** A refusal or failure in its own sentences, with what to do next. */
export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  const refusal = error instanceof Refusal ? error : undefined;
  return (
    <div ref={bringIntoSight} role="alert" className="m-4 rounded-lg border-[1.5px] border-stop bg-sheet p-4">
      <p className="font-semibold text-stop">{refusal?.title ?? "This page met an error"}</p>
      {(refusal?.problems ?? ["Load the page again; what was saved is safe."]).map((said) => (
        <p key={said} className="mt-1">
          {said}
        </p>
      ))}
      {retry && (
        <Button className="mt-3" onClick={retry}>
          Try again
        </Button>
      )}
    </div>
  );
}

export function NotHere() {
  return (
    <Empty title="There is nothing at this address">
      <ForAll
        otherwise={
          <Link className="underline" to="/run">
            Go to the Run sheet
          </Link>
        }
      >
        <Link className="underline" to="/bench">
          Go to the Bench
        </Link>
      </ForAll>
    </Empty>
  );
}

/** What is shown when a screen itself fails. */
export function Broken() {
  return <Failed error={undefined} retry={() => window.location.reload()} />;
}
