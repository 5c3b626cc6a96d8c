import "@fontsource/barlow/400.css";
import "@fontsource/barlow/500.css";
import "@fontsource/barlow/600.css";
import "@fontsource/barlow-semi-condensed/400.css";
import "@fontsource/barlow-semi-condensed/600.css";
import "./styles.css";

import { QueryCache, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";

import { Answers } from "./api/cache";
import { Refusal } from "./api/client";
import { App } from "./App";
import { Away } from "./frame/Away";
import { DIM } from "./frame/theme";

const client = new Answers({
  queryCache: new QueryCache({
    onError: (error) => {
      // a session that ended asks to sign in again, wherever it is noticed
      if (error instanceof Refusal && error.status === 401)
        void client.invalidateQueries({ queryKey: ["session"] });
    },
  }),
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (times, error) =>
        times < 3 && !(error instanceof Refusal && error.status >= 400 && error.status < 500),
    },
  },
});

document.documentElement.dataset.theme = DIM ? "dim" : "paper";
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Away />
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
