import { createGlobalStyle } from "styled-components";
import styled from "styled-components";
import { useEditor } from "../../session/useStore";
import { dismissMessage } from "../../session/view";
import { Button } from "./controls";

export const PageStyle = createGlobalStyle`
  :root {
    --page: #e2eeea; --panel: rgba(255, 255, 255, 0.66); --panel-solid: #f8fcfa; --ink: #14302d; --muted: #4a625e;
    --edge: #c3d4cf; --edge-strong: #9db3ad; --control: #fbfefd; --control-over: #e8f3f0; --tuned: #0a6b4d;
    --tuned-over: #085a41; --on-tuned: #ffffff; --select: #1c4fd6; --select-wash: rgba(28, 79, 214, 0.12); --flag: #ab3a22;
  }
  @media screen { [data-theme="night"] {
    --page: #0b1516; --panel: rgba(28, 46, 48, 0.66); --panel-solid: #162526; --ink: #dcebe7; --muted: #9bb3ae;
    --edge: #2b4345; --edge-strong: #4d6a6c; --control: #1b2d2e; --control-over: #243a3b; --tuned: #5fd0a6;
    --tuned-over: #7adcb7; --on-tuned: #06251a; --select: #8fabff; --select-wash: rgba(143, 171, 255, 0.18); --flag: #f28d72;
    color-scheme: dark;
  } }
  * { box-sizing: border-box; }
  html, body, #root { height: 100%; margin: 0; }
  body {
    font: 14px/1.35 "Source Sans 3 Variable", "Glass Thread Accidentals", system-ui, sans-serif; font-variant-numeric: tabular-nums;
    color: var(--ink);
  }
  #root { background: linear-gradient(160deg, color-mix(in srgb, var(--page) 82%, white 18%), var(--page) 55%); background-color: var(--page); }
  [data-theme="night"] #root { background: var(--page); }
  @page { margin: 14mm; }
  @media print {
    html, body, #root { height: auto; }
    #root, [data-theme="night"] #root { background: #fff; }
  }
  h1, h2, h3 { text-wrap: balance; }
  @media (prefers-reduced-motion: reduce) { *, *::before, *::after { transition: none !important; animation: none !important; } }
`;

const Banner = styled.div<{ $trouble: boolean }>`
  position: fixed;
  right: 16px;
  bottom: 74px;
  z-index: 30;
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 8px;
  width: 252px;
  & > span {
    flex: 1 1 100%;
  }
  padding: 10px 12px 10px 14px;
  border-radius: 10px;
  background: var(--panel-solid);
  color: var(--ink);
  border: 1px solid ${(p) => (p.$trouble ? "var(--flag)" : "var(--tuned)")};
  border-left-width: 6px;
  box-shadow: 0 8px 30px rgba(0, 30, 28, 0.2);
`;

const Words = styled.span<{ $trouble: boolean }>`
  display: flex;
  align-items: center;
  gap: 10px;
  padding-left: 8px;
  border-left: 4px solid ${(p) => (p.$trouble ? "var(--flag)" : "var(--tuned)")};
`;

/** What came of the last thing that was done, in a line. */
export function Message() {
  return <Said as={Words} />;
}

/** The same in a corner of a page without a line for it. */
export function MessageBanner() {
  return <Said as={Banner} />;
}

function Said({ as: Frame }: { as: typeof Banner | typeof Words }) {
  const message = useEditor((s) => s.message);
  return (
    <div role="status" aria-live="polite">
      {message && (
        <Frame $trouble={message.kind === "trouble"}>
          <span>{message.text}</span>
          {message.again && <Button onPress={message.again}>Do it again</Button>}
          <Button onPress={dismissMessage} aria-label="Dismiss the message">
            Close
          </Button>
        </Frame>
      )}
    </div>
  );
}
