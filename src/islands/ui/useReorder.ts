import { useState, type DragEvent, type KeyboardEvent } from 'react';

/** Properties for a row that can be dragged to another place, or moved by Alt and the arrows. */
export interface RowProps {
  readonly draggable: true;
  readonly 'data-over'?: boolean;
  onDragStart(event: DragEvent): void;
  onDragOver(event: DragEvent): void;
  onDragEnd(): void;
  onDrop(event: DragEvent): void;
  onKeyDown(event: KeyboardEvent): void;
}

/** Makes the rows of a list movable. `move` is told which one, and to which place. */
export function useReorder(ids: readonly string[], move: (id: string, to: number) => void): (id: string) => RowProps {
  const [dragged, setDragged] = useState<string>();
  const [over, setOver] = useState<string>();
  return (id) => {
    const at = ids.indexOf(id);
    return {
      draggable: true,
      'data-over': over === id && dragged !== undefined && dragged !== id ? true : undefined,
      onDragStart: (e) => {
        e.dataTransfer.effectAllowed = 'move';
        e.dataTransfer.setData('text/plain', id);
        setDragged(id);
      },
      onDragOver: (e) => {
        if (dragged === undefined) return;
        e.preventDefault();
        setOver(id);
      },
      onDragEnd: () => (setDragged(undefined), setOver(undefined)),
      onDrop: (e) => {
        e.preventDefault();
        if (dragged !== undefined) move(dragged, at);
        setDragged(undefined);
        setOver(undefined);
      },
      onKeyDown: (e) => {
        const by = e.altKey ? (e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' ? 1 : 0) : 0;
        if (by === 0) return;
        e.preventDefault();
        e.stopPropagation();
        move(id, at + by);
      },
    };
  };
}
