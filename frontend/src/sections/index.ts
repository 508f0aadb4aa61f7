import type { ComponentType } from "react";

export interface Section {
  id: string;
  name: string;
  /** The letter after g that goes there. */
  key: string;
  paths: string[];
  load: () => Promise<{ default: ComponentType }>;
  /** Also for a device that was let in for the run sheet and the log alone. */
  byTheAmp?: true;
}

/** The sections that have something to show, in the order of the work. Navigation, keys and routes read this. */
export const SECTIONS: Section[] = [
  {
    id: "locker",
    name: "Locker",
    key: "l",
    paths: ["locker", "locker/:gearId"],
    load: () => import("./locker/Locker"),
  },
  {
    id: "bench",
    name: "Bench",
    key: "b",
    paths: ["bench", "bench/:hookupId"],
    load: () => import("./bench/Bench"),
  },
  {
    id: "loudness",
    name: "Loudness",
    key: "d",
    paths: ["loudness", "loudness/:hookupId"],
    load: () => import("./loudness/Loudness"),
  },
  {
    id: "feel",
    name: "Load feel",
    key: "e",
    paths: ["feel", "feel/:hookupId"],
    load: () => import("./feel/LoadFeel"),
  },
  {
    id: "capture",
    name: "Capture",
    key: "c",
    paths: ["capture", "capture/:hookupId"],
    load: () => import("./capture/Capture"),
  },
  {
    id: "compare",
    name: "Compare",
    key: "m",
    paths: ["compare", "compare/:comparisonId"],
    load: () => import("./compare/Compare"),
  },
  {
    id: "cab",
    name: "Cab blend",
    key: "k",
    paths: ["cab", "cab/:blendId", "cab/:blendId/mix"],
    load: () => import("./cab/Cab"),
  },
  {
    id: "run",
    name: "Run sheet",
    key: "r",
    paths: [
      "run",
      "run/:hookupId",
      "run/:hookupId/kit",
      "run/:hookupId/wrong",
      "run/:hookupId/wrong/:faultId",
    ],
    load: () => import("./run/RunSheet"),
    byTheAmp: true,
  },
  {
    id: "log",
    name: "Log",
    key: "t",
    paths: [
      "log",
      "log/:takeId",
      "log/:takeId/against/:otherId",
      "log/sheet/:sessionId",
      "log/notice/:noticeOf",
    ],
    load: () => import("./log/Log"),
    byTheAmp: true,
  },
  {
    id: "plan",
    name: "Plan",
    key: "p",
    paths: ["plan", "plan/:planId", "plan/:planId/:view"],
    load: () => import("./plan/Plan"),
  },
  {
    id: "drills",
    name: "Drills",
    key: "i",
    paths: ["drills", "drills/:sittingId"],
    load: () => import("./drills/Drills"),
  },
];
