import { useQueryClient, type QueryKey } from "@tanstack/react-query";
import { useEffect } from "react";

const channel = new BroadcastChannel("low-tide-changed");

/** Tells the other windows of this browser that what these keys stand for was changed. */
export const tellOtherWindows = (...keys: QueryKey[]) => channel.postMessage(keys);

/** What another window changed is read anew. */
export function useOtherWindows() {
  const client = useQueryClient();
  useEffect(() => {
    const heard = (event: MessageEvent<QueryKey[]>) => {
      for (const queryKey of event.data) void client.invalidateQueries({ queryKey });
    };
    channel.addEventListener("message", heard);
    return () => channel.removeEventListener("message", heard);
  }, [client]);
}
