import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { BenchPage } from "../features/bench/BenchPage";
import { BriefsPage } from "../features/briefs/BriefsPage";
import { DeskPage } from "../features/desk/DeskPage";
import { OrderPage } from "../features/order/OrderPage";
import { PressPage } from "../features/press/PressPage";
import { ProofPage } from "../features/proof/ProofPage";
import { SendPage } from "../features/send/SendPage";
import { ShelfPage } from "../features/shelf/ShelfPage";
import { TagsPage } from "../features/tags/TagsPage";
import { InTheClear } from "./InTheClear";
import { Offline } from "./Offline";
import { Palette } from "./Palette";
import { Rail } from "./Rail";
import { themeOf, useMode } from "./theme";

const client = new QueryClient({
  queryCache: new QueryCache(),
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } },
});

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
              <Routes>
                <Route path="/" element={<Navigate to="/shelf" replace />} />
                <Route path="/shelf" element={<ShelfPage />} />
                <Route path="/bench/:mixId" element={<BenchPage mode={mode} />} />
                <Route path="/order/:orderId?" element={<OrderPage />} />
                <Route path="/send" element={<SendPage />} />
                <Route path="/tags" element={<TagsPage />} />
                <Route path="/briefs" element={<BriefsPage />} />
                <Route path="/press/:pressingId?" element={<PressPage />} />
                <Route path="/proof/:pressingId?" element={<ProofPage mode={mode} />} />
                <Route path="/desk/:mixId" element={<DeskPage mode={mode} />} />
                <Route path="*" element={<Navigate to="/shelf" replace />} />
              </Routes>
            </main>
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}
