import "@fontsource-variable/source-sans-3/wght.css";
import "@fontsource/noto-music/music.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { exposeHeard } from "./hooks/heard";
import { restoreStrainLimit, restoreTheme } from "./hooks/view";
import { App } from "./screens/App";

restoreTheme();
restoreStrainLimit();
exposeHeard();
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
