import "@fontsource-variable/bricolage-grotesque/wght.css";
import "@fontsource-variable/fraunces/wght.css";
import "@fontsource/atkinson-hyperlegible/400.css";
import "@fontsource/atkinson-hyperlegible/700.css";
import "@mantine/core/styles/baseline.css";
import "@mantine/core/styles/default-css-variables.css";
import "@mantine/core/styles/global.css";
import "./app/theme.css";
import { MantineProvider } from "@mantine/core";
import { MutationCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { lazy } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { Shell } from "./app/Shell";
import { theme } from "./app/theme";
import { Refusal } from "./shared/api/client";

const GroupsScreen = lazy(() => import("./screens/groups/GroupsScreen").then((its) => ({ default: its.GroupsScreen })));
const RehearseScreen = lazy(() =>
  import("./screens/rehearse/RehearseScreen").then((its) => ({ default: its.RehearseScreen })),
);
const LibraryScreen = lazy(() =>
  import("./screens/library/LibraryScreen").then((its) => ({ default: its.LibraryScreen })),
);
const LiveScreen = lazy(() => import("./screens/live/LiveScreen").then((its) => ({ default: its.LiveScreen })));
const CostsScreen = lazy(() => import("./screens/costs/CostsScreen").then((its) => ({ default: its.CostsScreen })));
const TuneScreen = lazy(() => import("./screens/tune/TuneScreen").then((its) => ({ default: its.TuneScreen })));
const queries = new QueryClient({
  defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1 } },
  mutationCache: new MutationCache({
    // Somebody else was first: what there is now is shown beside what was refused.
    onError: (cause) => cause instanceof Refusal && cause.status === 409 && void queries.invalidateQueries(),
  }),
});

const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? "";
setNonce(nonce);

createRoot(document.getElementById("root") as HTMLElement).render(
  <MantineProvider theme={theme} getStyleNonce={() => nonce} defaultColorScheme="auto">
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <Routes>
          <Route element={<Shell />}>
            <Route path="/groups" element={<GroupsScreen />} />
            <Route path="/rehearse/:group" element={<RehearseScreen />} />
            <Route path="/tune/:group?" element={<TuneScreen />} />
            <Route path="/live" element={<LiveScreen />} />
            <Route path="/costs" element={<CostsScreen />} />
            <Route path="/library/:part?/:name?" element={<LibraryScreen />} />
            <Route path="*" element={<Navigate to="/groups" replace />} />
          </Route>
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  </MantineProvider>,
);
