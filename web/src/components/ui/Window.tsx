import type { ReactNode } from "react";
import { Dialog, Heading, Modal, ModalOverlay } from "react-aria-components";
import styled from "styled-components";

const Veil = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: rgba(10, 30, 28, 0.35);
  display: grid;
  place-items: center;
  z-index: 20;
`;

const Sheet = styled(Modal)`
  background: var(--panel-solid);
  color: var(--ink);
  border: 1px solid var(--edge);
  border-radius: 12px;
  min-width: 380px;
  max-width: 94vw;
  max-height: 90vh;
  overflow: auto;
  box-shadow: 0 18px 60px rgba(0, 30, 28, 0.25);
  & [role="dialog"] {
    outline: none;
    padding: 20px 22px;
  }
  & h3 {
    margin: 0 0 12px;
    font-size: 18px;
  }
`;

export function Window(props: { title: string; open: boolean; onClose: () => void; children: ReactNode }) {
  return (
    <Veil isOpen={props.open} onOpenChange={(open) => !open && props.onClose()} isDismissable>
      <Sheet>
        <Dialog>
          <Heading slot="title" level={3}>
            {props.title}
          </Heading>
          {props.children}
        </Dialog>
      </Sheet>
    </Veil>
  );
}
