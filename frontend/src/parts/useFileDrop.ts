import { useState, type DragEvent } from "react";

/** Files dropped on an element: what it listens to, and how it looks while they are over it. */
export function useFileDrop(taken: (files: FileList) => void) {
  const [over, setOver] = useState(false);
  return {
    look: over ? "outline-3 -outline-offset-4 outline-deep" : "",
    on: {
      onDragOver: (event: DragEvent) => {
        if (!event.dataTransfer.types.includes("Files")) return;
        event.preventDefault();
        setOver(true);
      },
      onDragLeave: (event: DragEvent) =>
        !event.currentTarget.contains(event.relatedTarget as Node) && setOver(false),
      onDrop: (event: DragEvent) => {
        event.preventDefault();
        setOver(false);
        taken(event.dataTransfer.files);
      },
    },
  };
}
