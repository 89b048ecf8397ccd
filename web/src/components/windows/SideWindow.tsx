import { type ReactNode, useEffect, useRef } from "react";
import styled from "styled-components";
import { Button } from "../ui/controls";

const Frame = styled.section`
  min-width: 0;
  min-height: 0;
  overflow: auto;
  padding: 12px 14px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  background: var(--panel-solid);
  border: 1px solid var(--edge);
  border-radius: 12px;
  outline: none;
  @media (max-width: 900px) {
    position: fixed;
    right: 8px;
    bottom: 8px;
    width: min(340px, calc(100vw - 16px));
    max-height: 60vh;
    border-color: var(--edge-strong);
    box-shadow: 0 14px 44px rgba(0, 30, 28, 0.28);
    z-index: 15;
  }
  & > * {
    flex: none; /* it scrolls rather than pressing its parts flat */
  }
  & .head {
    display: flex;
    justify-content: space-between;
    align-items: center;
  }
  & h3 {
    margin: 0;
    font-size: 17px;
  }
  & p {
    margin: 0;
  }
  & button {
    max-width: 100%;
    white-space: normal;
    text-align: left;
  }
`;

/** A window beside the sheet, so that what it previews stays in sight. */
export function SideWindow(props: { title: string; onClose: () => void; children: ReactNode }) {
  const frame = useRef<HTMLElement>(null);
  useEffect(() => {
    const sheet = document.querySelector<HTMLElement>("[role=application]");
    const before = document.activeElement instanceof HTMLElement ? document.activeElement : null;
    frame.current?.focus();
    return () => (sheet ?? before)?.focus();
  }, []);
  return (
    <Frame
      ref={frame}
      role="dialog"
      aria-label={props.title}
      tabIndex={-1}
      data-beside=""
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        props.onClose();
      }}
    >
      <div className="head">
        <h3>{props.title}</h3>
        <Button onPress={props.onClose} aria-label={`Close ${props.title}`}>
          ✕
        </Button>
      </div>
      {props.children}
    </Frame>
  );
}
