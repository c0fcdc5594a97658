import "@fontsource-variable/atkinson-hyperlegible-next/index.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/index.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import "./app.css";
import { clock } from "./player/clock";
import { colour, hues, theme } from "./theme";
import { Guard } from "./parts/Guard";
import { ProjectsView } from "./views/projects/ProjectsView";

const Shell = lazy(async () => ({ default: (await import("./views/Shell")).Shell }));
const Screen = lazy(async () => ({ default: (await import("./views/Screen")).Screen }));

// For whoever watches the page from outside: the clock that everything follows.
Object.assign(window, { zembi: { clock } });

const client = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, staleTime: 1000 } } });
const root = document.getElementById("root");
// Who asked the system for less movement gets dialogs and menus that are there at once.
const motion = !window.matchMedia("(prefers-reduced-motion: reduce)").matches;

for (const [name, value] of Object.entries(colour)) document.documentElement.style.setProperty(`--${name}`, value);
hues.forEach((hue, i) => document.documentElement.style.setProperty(`--hue-${i + 1}`, hue));

if (root) {
  createRoot(root).render(
    <ConfigProvider theme={{ ...theme, token: { ...theme.token, motion } }}>
      <AntApp message={{ maxCount: 3 }}>
        <QueryClientProvider client={client}>
          <BrowserRouter>
            <Guard name="This page">
              <Suspense fallback={null}>
                <Routes>
                  <Route path="/" element={<ProjectsView />} />
                  <Route path="/p/:id/screen" element={<Screen />} />
                  <Route path="/p/:id/:view?" element={<Shell />} />
                  <Route path="*" element={<Navigate to="/" replace />} />
                </Routes>
              </Suspense>
            </Guard>
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>,
  );
}
