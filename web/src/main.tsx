import "@fontsource/atkinson-hyperlegible/latin-400.css";
import "@fontsource/atkinson-hyperlegible/latin-700.css";
import "bootstrap/dist/css/bootstrap.min.css";
import "./look/colours.css";
import "./look/controls.css";
import "./look/shell.css";
import "./look/steps.css";
import "./look/sizes.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Problem } from "./api/client";
import { Start } from "./start/Start";
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
      {/* Two keys one after another each find what the one before did. */}
      <BrowserRouter useTransitions={false}>
        <Routes>
          <Route path="/" element={<Start />} />
          <Route path="/tracks/:id/:step" element={<TrackPage />} />
          <Route path="*" element={<Start />} />
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
