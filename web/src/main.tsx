import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider, createBrowserRouter } from "react-router";
import { App } from "./App";
import { ProblemError } from "./api/client";
import { loadPageAt } from "./pages";
import { applyTheme } from "./shell/preferences";
import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-600.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-600.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "./styles/main.scss";

applyTheme();

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // The server is on this machine: a browser that thinks itself offline still reaches it.
      networkMode: "always",
      staleTime: 5_000,
      retry: (count, error) => error instanceof ProblemError && error.problem.status === 0 && count < 3,
    },
  },
});

// One route for all pages, which `App` tells apart; a router of this kind can ask before one leaves.
const router = createBrowserRouter([{ path: "*", element: <App /> }]);

const root = document.getElementById("root");
if (root) {
  await loadPageAt(location.pathname);
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
