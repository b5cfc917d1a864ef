import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { themeOf, useMode } from "../shared/theme";
import { InTheClear } from "./InTheClear";
import { Offline } from "./Offline";
import { Palette } from "./Palette";
import { Rail } from "./Rail";

const client = new QueryClient({
  queryCache: new QueryCache(),
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } },
});

// Each view is loaded when it is first shown.
const BenchPage = lazy(async () => ({ default: (await import("../features/bench/BenchPage")).BenchPage }));
const BriefsPage = lazy(async () => ({
  default: (await import("../features/briefs/BriefsPage")).BriefsPage,
}));
const DeskPage = lazy(async () => ({ default: (await import("../features/desk/DeskPage")).DeskPage }));
const OrderPage = lazy(async () => ({ default: (await import("../features/order/OrderPage")).OrderPage }));
const PressingsPage = lazy(async () => ({
  default: (await import("../features/pressings/PressingsPage")).PressingsPage,
}));
const ProofPage = lazy(async () => ({ default: (await import("../features/proof/ProofPage")).ProofPage }));
const OutboxPage = lazy(async () => ({
  default: (await import("../features/outbox/OutboxPage")).OutboxPage,
}));
const ShelfPage = lazy(async () => ({ default: (await import("../features/shelf/ShelfPage")).ShelfPage }));
const TagsPage = lazy(async () => ({ default: (await import("../features/tags/TagsPage")).TagsPage }));

export function App() {
  const [mode, toggle] = useMode();
  return (
    <ConfigProvider theme={themeOf(mode)}>
      <AntApp className="app">
        <QueryClientProvider client={client}>
          <BrowserRouter>
            <Rail mode={mode} toggleMode={toggle} />
            <Palette toggleMode={toggle} />
            <main className="main">
              <Offline />
              <InTheClear />
              <Suspense fallback={null}>
                <Routes>
                  <Route path="/" element={<Navigate to="/shelf" replace />} />
                  <Route path="/shelf" element={<ShelfPage />} />
                  <Route path="/bench/:mixId" element={<BenchPage mode={mode} />} />
                  <Route path="/order/:orderId?" element={<OrderPage />} />
                  <Route path="/send" element={<OutboxPage />} />
                  <Route path="/tags" element={<TagsPage />} />
                  <Route path="/briefs" element={<BriefsPage />} />
                  <Route path="/press/:pressingId?" element={<PressingsPage />} />
                  <Route path="/proof/:pressingId?" element={<ProofPage mode={mode} />} />
                  <Route path="/desk/:mixId" element={<DeskPage mode={mode} />} />
                  <Route path="*" element={<Navigate to="/shelf" replace />} />
                </Routes>
              </Suspense>
            </main>
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}
