import "@fontsource/atkinson-hyperlegible/latin-400.css";
import "@fontsource/atkinson-hyperlegible/latin-700.css";
import "bootstrap/dist/css/bootstrap.min.css";
import "./look/colours.css";
import "./look/controls.css";
import "./look/shell.css";
import "./look/beat.css";
import "./look/ladder.css";
import "./look/steps.css";
import "./look/brief.css";
import "./look/hits.css";
import "./look/tune.css";
import "./look/line.css";
import "./look/separate.css";
import "./look/compressor.css";
import "./look/curve.css";
import "./look/duckings.css";
import "./look/sections.css";
import "./look/notices.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Problem } from "./api/client";
import { Start } from "./bench/Start";
import { TrackPage } from "./bench/TrackPage";
import { applyTheme } from "./bench/theme";

applyTheme();

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      // A wrong question stays wrong; only a server that does not answer is asked again.
      retry: (count, error) => count < 2 && error instanceof Problem && error.status === 0,
    },
  },
});

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <Routes>
          <Route path="/" element={<Start />} />
          <Route path="/tracks/:id/:step" element={<TrackPage />} />
          <Route path="*" element={<Start />} />
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
