import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** What this is, and who asks: the device, or nobody by name at the desk; and whether it may do what is not of the run
 * sheet and the log. */
export function useAbout() {
  const about = useQuery({
    queryKey: ["about"],
    queryFn: () => answer(api.GET("/api/about")),
    staleTime: Infinity,
    gcTime: Infinity,
  });
  const device = about.data?.device ?? null;
  return {
    about: about.data,
    device,
    isDesk: about.data?.device === null,
    isForAll: device?.scope !== "run",
  };
}
