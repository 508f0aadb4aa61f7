import type { ReactNode } from "react";
import { useAbout } from "./useAbout";

/** What a device that was let in for the run sheet and the log may not do: not shown to it, or `otherwise` in words. */
export function ForAll({ children, otherwise }: { children: ReactNode; otherwise?: ReactNode }) {
  return useAbout().isForAll ? children : otherwise;
}
