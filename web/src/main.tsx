import "@fontsource-variable/source-sans-3/wght.css";
import "./fonts/accidentals.css";
import { StrictMode } from "react";
import { createRoot, type Root } from "react-dom/client";
import { recall } from "./session/remembered";
import { restoreSongOrder, restoreTheme } from "./session/view";
import { App } from "./screens/App";

function show(): Root {
  restoreTheme();
  recall();
  restoreSongOrder();
  const root = createRoot(document.getElementById("root")!);
  root.render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
  return root;
}

let root = show();
// The tests have a build of their own in which the page can be asked what it plays and where things are, and begun anew.
if (import.meta.env.MODE === "test")
  void import("./measuring/heard").then(({ exposeHeard }) => {
    exposeHeard({
      leave: () => root.unmount(),
      enter: () => {
        root = show();
      },
    });
  });
