import { createBrowserRouter, Navigate } from "react-router";
import { Shell } from "./parts/Shell";
import { Broken, Loading, NotHere } from "./parts/states";
import { SECTIONS } from "./sections";

export const router = createBrowserRouter([
  {
    path: "/pair",
    errorElement: <Broken />,
    hydrateFallbackElement: <Loading what="the page" />,
    lazy: async () => ({ Component: (await import("./parts/sharing/Pair")).default }),
  },
  {
    path: "/",
    element: <Shell />,
    errorElement: <Broken />,
    hydrateFallbackElement: <Loading what="the page" />,
    children: [
      { index: true, element: <Navigate to="/bench" replace /> },
      ...SECTIONS.flatMap((section) =>
        section.paths.map((path) => ({
          path,
          lazy: async () => ({ Component: (await section.load()).default }),
        })),
      ),
      {
        path: "help/:page?",
        lazy: async () => ({ Component: (await import("./sections/help/Help")).default }),
      },
      { path: "*", element: <NotHere /> },
    ],
  },
]);
