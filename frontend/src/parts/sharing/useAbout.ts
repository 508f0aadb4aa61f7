import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** What this is, and who asks: the device, or nobody by name at the desk. */
export function useAbout() {
  const about = useQuery({
    queryKey: ["about"],
    queryFn: () => answer(api.GET("/api/about")),
    staleTime: Infinity,
    gcTime: Infinity,
  });
  return { about: about.data, device: about.data?.device ?? null, isDesk: about.data?.device === null };
}
