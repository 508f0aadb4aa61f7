import { useMutation } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** Goes to the lightship, or back; the page is read anew, since everything in it is of other data. */
export function useLightship() {
  return useMutation({
    mutationFn: (there: boolean) => answer(there ? api.POST("/api/lightship") : api.DELETE("/api/lightship")),
    onSuccess: () => window.location.assign("/bench"),
  });
}
