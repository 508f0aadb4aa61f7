import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router/dom";
import "./index.css";
import { Refusal } from "./api/client";
import { Queries } from "./api/queries";
import { applyTheme } from "./parts/theme";
import { router } from "./router";

// The page's policy lets only styles with this nonce in; Radix puts one in while a dialog is open.
setNonce(document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? "");
applyTheme();

const client = new Queries({
  defaultOptions: {
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      // Most keys name the state they are about, which an edit leaves behind for good.
      gcTime: 15_000,
      retry: (count, error) => count < 1 && !(error instanceof Refusal && error.status >= 400),
    },
    // What an edit answered lies with the queries; kept here too, every one would keep a whole hook-up.
    mutations: { networkMode: "always", gcTime: 0 },
  },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      {/* A control whose value stands in the address shows it at once, not when there is time for it. */}
      <RouterProvider router={router} useTransitions={false} />
    </QueryClientProvider>
  </StrictMode>,
);
