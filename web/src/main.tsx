import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import "@fontsource/barlow/latin-400.css";
import "@fontsource/barlow/latin-500.css";
import "@fontsource/barlow/latin-600.css";
import "@fontsource/barlow-semi-condensed/latin-500.css";
import "@fontsource/barlow-semi-condensed/latin-600.css";
import "@fontsource/inconsolata/latin-400.css";
import "@fontsource/inconsolata/latin-500.css";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, useEffect, useMemo } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter } from "react-router";
import { RouterProvider } from "react-router/dom";
import { Problem } from "./api/client";
import { follow } from "./shell/headed";
import { Lost, Root } from "./shell/Root";
import { useScheme } from "./shell/scheme";
import "./styles.css";
import { themeFor } from "./theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce;
const cache = createCache({ key: "gf", nonce, prepend: true });

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      gcTime: 60_000,
      refetchOnWindowFocus: true,
      retry: (count, error) => (error instanceof Problem && error.status === 0 ? count < 3 : false),
      retryDelay: 1_000,
    },
  },
});

const router = createBrowserRouter([
  {
    element: <Root />,
    errorElement: <Lost />,
    HydrateFallback: () => null,
    children: [
      { index: true, lazy: async () => ({ Component: (await import("./over/crossings/Crossings")).default }) },
      {
        path: "c/:crossing",
        lazy: async () => ({ Component: (await import("./shell/Frame")).default }),
        children: [
          { index: true, lazy: async () => ({ Component: (await import("./over/manifest/Manifest")).default }) },
          { path: "manifest", lazy: async () => ({ Component: (await import("./over/manifest/Manifest")).default }) },
          { path: "media", lazy: async () => ({ Component: (await import("./over/media/Media")).default }) },
          { path: "survey", lazy: async () => ({ Component: (await import("./stages/survey/Survey")).default }) },
          { path: "sort", lazy: async () => ({ Component: (await import("./stages/sort/Sort")).default }) },
          { path: "lift", lazy: async () => ({ Component: (await import("./stages/lift/Lift")).default }) },
          { path: "refit", lazy: async () => ({ Component: (await import("./stages/refit/Refit")).default }) },
          { path: "route", lazy: async () => ({ Component: (await import("./stages/route/Route")).default }) },
          { path: "land", lazy: async () => ({ Component: (await import("./stages/land/Land")).default }) },
        ],
      },
      { path: "*", element: <Lost /> },
    ],
  },
]);
follow(router);

function App() {
  const scheme = useScheme();
  const theme = useMemo(() => themeFor(scheme), [scheme]);
  useEffect(() => {
    document.documentElement.dataset.scheme = scheme;
  }, [scheme]);
  return (
    <CacheProvider value={cache}>
      <ThemeProvider theme={theme}>
        <QueryClientProvider client={queries}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  );
}

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
