import { type ReactNode, useEffect, useRef } from "react";
import styled from "styled-components";
import { Button } from "../ui/controls";

const Frame = styled.section<{ $wide: boolean }>`
  position: fixed;
  right: 18px;
  bottom: 76px;
  width: ${(p) => (p.$wide ? 432 : 340)}px;
  max-height: calc(100vh - 150px);
  overflow: auto;
  padding: 14px 18px 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  background: var(--panel-solid);
  border: 1px solid var(--edge-strong);
  border-radius: 12px;
  box-shadow: 0 14px 44px rgba(0, 30, 28, 0.28);
  z-index: 15;
  outline: none;
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
`;

/** A window beside the sheet, so that what it previews stays in sight. */
export function SideWindow(props: { title: string; onClose: () => void; children: ReactNode; wide?: boolean }) {
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
      $wide={props.wide ?? false}
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
