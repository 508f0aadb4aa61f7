import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Sharing = Schemas["SharingState"];
export type Scope = Schemas["OpenPairing"]["scope"];

export const SCOPES: Record<Scope, string> = {
  run: "Run sheet and log",
  all: "Everything but backup, restore and sharing",
};

const KEY = ["sharing"];
const WATCHED_MS = 2000;
/** While it is shared: an address may go, as one walks into another network. */
const SHARED_MS = 20_000;

/** Sharing as it stands; asked for again and again while a pairing is open, or where somebody looks at it. */
export function useSharing(isDesk: boolean, watched: boolean) {
  return useQuery({
    queryKey: KEY,
    queryFn: () => answer(api.GET("/api/sharing")),
    enabled: isDesk,
    refetchInterval: (query) => {
      if (watched || query.state.data?.pairing) return WATCHED_MS;
      return query.state.data?.on ? SHARED_MS : false;
    },
  });
}

/** What can be done about it, at the desk. */
export function useSharingActs() {
  const client = useQueryClient();
  const settled = {
    onSuccess: (state: Sharing) => client.setQueryData(KEY, state),
    onError: () => void client.invalidateQueries({ queryKey: KEY }),
  };
  const share = useMutation({
    ...settled,
    mutationFn: (addresses: string[]) => answer(api.PUT("/api/sharing", { body: { addresses } })),
  });
  const open = useMutation({
    ...settled,
    mutationFn: (scope: Scope) => answer(api.POST("/api/sharing/pairing", { body: { scope } })),
  });
  const close = useMutation({
    ...settled,
    mutationFn: () => answer(api.DELETE("/api/sharing/pairing")),
  });
  const shutOut = useMutation({
    ...settled,
    mutationFn: (id: string) =>
      answer(api.DELETE("/api/sharing/devices/{device_id}", { params: { path: { device_id: id } } })),
  });
  const all = [share, open, close, shutOut];
  return { share, open, close, shutOut, error: all.find((each) => each.error)?.error };
}
