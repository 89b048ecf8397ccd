import "@fontsource-variable/source-sans-3/wght.css";
import "./fonts/accidentals.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { restoreSongOrder, restoreStrainLimit, restoreTheme } from "./hooks/view";
import { App } from "./screens/App";

restoreTheme();
restoreStrainLimit();
restoreSongOrder();
// The tests have a build of their own in which the page can be asked what it plays and where things are.
if (import.meta.env.MODE === "test") void import("./hooks/heard").then(({ exposeHeard }) => exposeHeard());
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
