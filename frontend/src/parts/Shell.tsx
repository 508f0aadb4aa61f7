import { useOtherWindows } from "./elsewhere";
import { BookOpen, HardDrive, Settings2 } from "lucide-react";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Link, Outlet, useLocation, useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { SECTIONS } from "../sections";
import { useLightship } from "../sections/first/useLightship";
import { Key } from "./controls";
import { Find } from "./Find";
import { KeyHelp } from "./KeyHelp";
import { useKeys } from "./keys";
import { PreferencesSheet, usePreferences } from "./Preferences";
import { SectionNav } from "./SectionNav";

const YourData = lazy(() => import("./YourData"));

type Open = "find" | "keys" | "data" | "preferences" | null;

function Wordmark() {
  return (
    <span className="flex items-center gap-2 text-[17px] font-bold">
      <svg width="26" height="18" viewBox="0 0 26 18" aria-hidden>
        <path d="M1 5h24" className="stroke-ink" strokeWidth="1.6" strokeDasharray="2.5 2.5" />
        <path
          d="M1 13c3-2.6 6-2.6 9 0s6 2.6 9 0 4-2 6-.6"
          fill="none"
          className="stroke-deep"
          strokeWidth="2.4"
        />
      </svg>
      Low Tide
    </span>
  );
}

/** While one looks around the lightship: where one is, and the way back. */
function Visiting() {
  const about = useQuery({
    queryKey: ["about"],
    queryFn: () => answer(api.GET("/api/about")),
    staleTime: Infinity,
  });
  const lightship = useLightship();
  if (!about.data?.visiting) return null;
  return (
    <div
      role="region"
      aria-label="Lightship"
      className="no-print flex shrink-0 flex-wrap items-center justify-center gap-3 bg-shoal px-4 py-1 text-[13px]"
    >
      <span>
        You are on the <b>lightship</b>, an invented studio. Nothing here touches your own data.
      </span>
      <button
        type="button"
        className="min-h-[24px] font-semibold underline"
        disabled={lightship.isPending}
        onClick={() => lightship.mutate(false)}
      >
        {lightship.isPending ? "Going back …" : "Back to my own"}
      </button>
      {lightship.error && <span role="alert">{lightship.error.message}</span>}
    </div>
  );
}

export function Shell() {
  const [open, setOpen] = useState<Open>(null);
  const go = useNavigate();
  const pending = useRef(0);
  const preferences = usePreferences();
  useOtherWindows();
  const goTo = Object.fromEntries(
    SECTIONS.map((section) => [
      section.key,
      () => {
        if (Date.now() - pending.current > 1500) return false;
        pending.current = 0;
        void go(`/${section.id}`);
        return true;
      },
    ]),
  );
  const { pathname } = useLocation();
  const here =
    SECTIONS.find((s) => pathname.split("/")[1] === s.id)?.name ??
    (pathname.startsWith("/help") ? "Help" : "Low Tide");
  useEffect(() => {
    document.title = here === "Low Tide" ? here : `${here} · Low Tide`;
  }, [here]);
  useKeys({
    ...goTo,
    "/": () => setOpen("find"),
    "?": () => setOpen("keys"),
    g: () => {
      pending.current = Date.now();
    },
  });
  return (
    <div className="flex h-full flex-col">
      <a
        href="#main"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-2 focus:underline"
      >
        Skip to the work
      </a>
      <Visiting />
      <header className="no-print flex min-h-[44px] shrink-0 flex-wrap items-center gap-x-4 border-b border-line px-4 max-sm:py-1.5">
        <Wordmark />
        <SectionNav here={here} />
        <div className="ml-auto flex items-center gap-3 text-[13px] text-ink-2">
          <span className="hidden max-w-[150px] truncate xl:inline min-[1480px]:max-w-[220px]">
            {preferences.data?.preferences.session_name}
          </span>
          <button
            type="button"
            onClick={() => setOpen("find")}
            className="flex items-center gap-1.5 rounded px-1"
          >
            <Key>/</Key> <span className="max-[1300px]:sr-only">find</span>
          </button>
          <button
            type="button"
            onClick={() => setOpen("keys")}
            className="flex items-center gap-1.5 rounded px-1"
          >
            <Key>?</Key> <span className="max-[1300px]:sr-only">keys</span>
          </button>
          <Link
            to="/help/user-guide"
            aria-label="Help"
            title="User guide, physics, checks"
            className="rounded p-1 hover:bg-faint"
          >
            <BookOpen size={17} />
          </Link>
          <button
            type="button"
            aria-label="Your data"
            title="Your data: back up, restore"
            onClick={() => setOpen("data")}
            className="rounded p-1 hover:bg-faint"
          >
            <HardDrive size={17} />
          </button>
          <button
            type="button"
            aria-label="Preferences"
            onClick={() => setOpen("preferences")}
            className="rounded p-1 hover:bg-faint"
          >
            <Settings2 size={17} />
          </button>
        </div>
      </header>
      <main id="main" tabIndex={-1} className="min-h-0 flex-1 outline-none">
        <h1 className="sr-only">{here}</h1>
        <Outlet />
      </main>
      {open === "find" && <Find onClose={() => setOpen(null)} onOpen={setOpen} />}
      {open === "keys" && <KeyHelp onClose={() => setOpen(null)} />}
      {open === "data" && (
        <Suspense fallback={null}>
          <YourData onClose={() => setOpen(null)} />
        </Suspense>
      )}
      {open === "preferences" && <PreferencesSheet onClose={() => setOpen(null)} />}
    </div>
  );
}
