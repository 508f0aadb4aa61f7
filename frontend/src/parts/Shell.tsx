import { useOtherWindows } from "./elsewhere";
import { BookOpen, HardDrive, Moon, Search, Settings2, Share2, Sun } from "lucide-react";
import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from "react";
import { Link, Navigate, Outlet, useLocation, useNavigate } from "react-router";
import { SECTIONS } from "../sections";
import { useWayBack } from "../sections/first/useLightship";
import { Key } from "./controls";
import { Find } from "./Find";
import { KeyHelp } from "./KeyHelp";
import { useKeys } from "./keys";
import { PreferencesSheet, usePreferences } from "./Preferences";
import { useLive } from "./live/useLive";
import { SectionNav } from "./SectionNav";
import { CameIn } from "./sharing/CameIn";
import { OutOfReach } from "./sharing/OutOfReach";
import { keepHere } from "./sharing/keepHere";
import { isAtDesk, linkToFile, saveFile } from "./sharing/save";
import { useAbout } from "./sharing/useAbout";
import { Loading } from "./states";
import { chooseTheme, isNight } from "./theme";

const YourData = lazy(() => import("./YourData"));
const ShareSheet = lazy(() => import("./sharing/ShareSheet"));

type Open = "find" | "keys" | "data" | "preferences" | "share" | null;

/** Sections whose addresses name a hook-up: its run sheet is where a device by the amp sees it. */
const ABOUT_A_HOOKUP = /^\/(?:bench|loudness|feel|capture)(?=\/|$)/;
const BY_THE_AMP = SECTIONS.filter((section) => section.byTheAmp);

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
  const { about, isDesk } = useAbout();
  const back = useWayBack();
  if (!about?.visiting) return null;
  return (
    <div
      role="region"
      aria-label="Lightship"
      className="no-print flex shrink-0 flex-wrap items-center justify-center gap-3 bg-shoal px-4 py-1 text-[13px]"
    >
      <span>
        You are on the <b>lightship</b>, an invented studio. Nothing here touches your own data.
      </span>
      {isDesk && (
        <button
          type="button"
          className="min-h-[24px] font-semibold underline"
          disabled={back.isPending}
          onClick={() => back.mutate()}
        >
          {back.isPending ? "Going back …" : "Back to my own"}
        </button>
      )}
      {back.error && <span role="alert">{back.error.message}</span>}
    </div>
  );
}

/** A picture in the head that does something. */
function HeadButton({
  label,
  title,
  pressed,
  onPress,
  children,
}: {
  label: string;
  title?: string;
  pressed?: boolean;
  onPress: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      aria-pressed={pressed}
      title={title ?? label}
      onClick={onPress}
      className="flex items-center justify-center rounded p-1 hover:bg-faint"
    >
      {children}
    </button>
  );
}

/** For a device that has no preferences to choose it in: light, or for a dark room. */
function NightWatch() {
  const [night, setNight] = useState(isNight);
  const turn = () => {
    chooseTheme(night ? "day" : "night");
    setNight(!night);
  };
  return (
    <HeadButton label="Night watch" title="Night watch: for a dark room" pressed={night} onPress={turn}>
      {night ? <Sun size={17} /> : <Moon size={17} />}
    </HeadButton>
  );
}

/** On a device, a link to a file is asked for by the page itself. */
function useFilesFromAfar() {
  useEffect(() => {
    const clicked = (event: MouseEvent) => {
      const address = isAtDesk ? undefined : linkToFile(event);
      if (!address) return;
      event.preventDefault();
      void saveFile(address);
    };
    document.addEventListener("click", clicked);
    return () => document.removeEventListener("click", clicked);
  }, []);
}

export function Shell() {
  const [open, setOpen] = useState<Open>(null);
  const go = useNavigate();
  const pending = useRef(0);
  const preferences = usePreferences();
  useOtherWindows();
  useLive();
  useFilesFromAfar();
  useEffect(keepHere, []);
  const { about, device, isDesk, isForAll } = useAbout();
  const sections = isForAll ? SECTIONS : BY_THE_AMP;
  const goTo = Object.fromEntries(
    sections.map((section) => [
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
    "/": () => isForAll && setOpen("find"),
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
      <header className="at-arm no-print flex min-h-[44px] shrink-0 flex-wrap items-center gap-x-4 touch:py-1 border-b border-line px-4 max-sm:py-1.5">
        <Wordmark />
        <SectionNav here={here} sections={sections} />
        <div className="ml-auto flex items-center gap-3 text-[13px] text-ink-2">
          <span
            className={`max-w-[150px] truncate min-[1480px]:max-w-[220px] ${device ? "" : "hidden xl:inline"}`}
          >
            {device?.name ?? preferences.data?.preferences.session_name}
          </span>
          {isForAll && (
            <button
              type="button"
              onClick={() => setOpen("find")}
              className="flex items-center justify-center gap-1.5 rounded px-1"
            >
              <Search size={17} className="hidden touch:block" />
              <Key>/</Key> <span className="max-[1300px]:sr-only">find</span>
            </button>
          )}
          <button
            type="button"
            onClick={() => setOpen("keys")}
            className="flex items-center gap-1.5 rounded px-1 touch:hidden"
          >
            <Key>?</Key> <span className="max-[1300px]:sr-only">keys</span>
          </button>
          <Link
            to="/help/user-guide"
            aria-label="Help"
            title="User guide, physics, checks"
            className="inline-flex items-center justify-center rounded p-1 hover:bg-faint"
          >
            <BookOpen size={17} />
          </Link>
          {!isForAll && <NightWatch />}
          {isDesk && (
            <>
              <HeadButton
                label="Share"
                title="Share with a device on the network"
                onPress={() => setOpen("share")}
              >
                <Share2 size={17} />
              </HeadButton>
              <HeadButton
                label="Your data"
                title="Your data: back up, restore"
                onPress={() => setOpen("data")}
              >
                <HardDrive size={17} />
              </HeadButton>
            </>
          )}
          {isForAll && (
            <HeadButton label="Preferences" onPress={() => setOpen("preferences")}>
              <Settings2 size={17} />
            </HeadButton>
          )}
        </div>
      </header>
      {isDesk && <CameIn />}
      <OutOfReach isDesk={isAtDesk} />
      <main
        id="main"
        tabIndex={-1}
        className={`min-h-0 flex-1 outline-none ${BY_THE_AMP.some((s) => s.name === here) ? "at-arm" : ""}`}
      >
        <h1 className="sr-only">{here}</h1>
        {!isAtDesk && !about ? (
          <Loading what="what this device may do" />
        ) : isForAll || pathname.startsWith("/help") || sections.some((s) => s.name === here) ? (
          <Outlet />
        ) : (
          <Navigate
            to={ABOUT_A_HOOKUP.test(pathname) ? pathname.replace(ABOUT_A_HOOKUP, "/run") : "/run"}
            replace
          />
        )}
      </main>
      {open === "find" && <Find onClose={() => setOpen(null)} onOpen={setOpen} />}
      {open === "keys" && <KeyHelp onClose={() => setOpen(null)} />}
      {open === "data" && (
        <Suspense fallback={null}>
          <YourData onClose={() => setOpen(null)} />
        </Suspense>
      )}
      {open === "share" && (
        <Suspense fallback={null}>
          <ShareSheet onClose={() => setOpen(null)} />
        </Suspense>
      )}
      {open === "preferences" && <PreferencesSheet onClose={() => setOpen(null)} />}
    </div>
  );
}
