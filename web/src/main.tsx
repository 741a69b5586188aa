import "./index.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { ErrorBoundary } from "react-error-boundary";
import { BrowserRouter } from "react-router";
import { Problem } from "./api/client";
import { openOutbox } from "./api/outbox";
import { App } from "./app";
import { reach } from "./core/reach";
import { Broken } from "./parts/Broken";
import { applyTheme } from "./parts/Dock";

/** A server without its database is asked again; one that does not answer is asked once it does. */
const again = (count: number, error: unknown) =>
  error instanceof Problem && error.away && count < (error.status === 0 ? 1 : 100);
const queries = new QueryClient({
  // Asked whatever the browser says of the network: the tablet answers much itself.
  defaultOptions: {
    queries: { retry: again, retryDelay: 1_500, networkMode: "always" },
    mutations: { retry: again, retryDelay: 1_500, networkMode: "always" },
  },
});
applyTheme();
await openOutbox();
reach.begin();
reach.watch(() => {
  if (!reach.away) queries.invalidateQueries();
});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <ErrorBoundary FallbackComponent={Broken} onReset={() => queries.resetQueries()}>
            <App />
          </ErrorBoundary>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
