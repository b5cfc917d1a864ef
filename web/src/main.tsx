// All styles at once: views share some, and their order must not depend on which is opened first.
import "@fontsource/zilla-slab/600.css";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "./app/styles.css";
import "./features/bench/bench.css";
import "./features/bench/sound/sound.css";
import "./features/bench/ticket/ticket.css";
import "./features/bench/panel/delivery.css";
import "./features/bench/panel/station.css";
import "./features/bench/range/range.css";
import "./features/briefs/briefs.css";
import "./shared/folders/folders.css";
import "./shared/forms/forms.css";
import "./shared/desk/desk.css";
import "./features/proof/proof.css";
import "./features/shelf/shelf.css";
import "./shared/ChangeNote.css";
import "./shared/jobs/JobProgress.css";
import "./features/bench/stems/stems.css";
import "./features/order/table/band.css";
import "./features/order/table/entries.css";
import "./features/order/sides/side.css";
import "./features/order/order.css";
import "./features/pressings/pressings.css";
import "./features/outbox/outbox.css";
import "./features/shelf/guide/guide.css";
import "./features/tags/tags.css";
import "./app/palette.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";

const root = document.getElementById("root");
if (!root) throw new Error("The page has no root element.");
createRoot(root).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
