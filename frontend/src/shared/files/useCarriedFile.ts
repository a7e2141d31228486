import { type DragEvent, useEffect, useState } from "react";

/** A file that is dropped on an element, pasted as rows of text, or chosen. */
export function useCarriedFile() {
  const [file, setFile] = useState<File | null>(null);
  const [over, setOver] = useState(false);
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      const into = event.target as HTMLElement | null;
      if (into?.closest("input, textarea, select, [contenteditable]")) return;
      const text = event.clipboardData?.getData("text/plain") ?? "";
      const carried = event.clipboardData?.files[0];
      if (carried) setFile(carried);
      else if (text.trim().includes("\n")) setFile(new File([text], "pasted.csv", { type: "text/csv" }));
    };
    document.addEventListener("paste", paste);
    return () => document.removeEventListener("paste", paste);
  }, []);
  const handlers = {
    onDragOver: (event: DragEvent) => {
      event.preventDefault();
      setOver(true);
    },
    onDragLeave: (event: DragEvent) => event.currentTarget === event.target && setOver(false),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      setOver(false);
      setFile(event.dataTransfer.files[0] ?? null);
    },
  };
  return { file, setFile, over, handlers };
}
