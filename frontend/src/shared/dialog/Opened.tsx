import "@mantine/core/styles/CloseButton.css";
import "@mantine/core/styles/Modal.css";
import "@mantine/core/styles/ModalBase.css";
import "@mantine/core/styles/Overlay.css";
import "@mantine/core/styles/Paper.css";
import "@mantine/core/styles/ScrollArea.css";
import "@mantine/core/styles/UnstyledButton.css";
import { Modal } from "@mantine/core";
import { useEffect } from "react";
import type { DialogProps } from "./Dialog";

export default function Opened({ close, title, size, children }: DialogProps) {
  useEffect(() => {
    const before = document.activeElement;
    return () => {
      if (before instanceof HTMLElement) before.focus();
    };
  }, []);
  return (
    <Modal
      opened
      onClose={close}
      title={title}
      size={size}
      transitionProps={{ duration: 0 }}
      returnFocus={false}
      closeButtonProps={{ "aria-label": `Close ${title}` }}
    >
      {children}
    </Modal>
  );
}
