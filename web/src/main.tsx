import "@fontsource/b612/latin-400.css";
import "@fontsource/b612/latin-700.css";
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

const again = (count: number, error: unknown) => error instanceof Problem && error.away && count < 100;
const queries = new QueryClient({
  defaultOptions: { queries: { retry: again, retryDelay: 1_500 }, mutations: { retry: again, retryDelay: 1_500 } },
});
applyTheme();
await openOutbox();
reach.begin();
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
