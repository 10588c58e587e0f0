import { useState, type MouseEvent } from 'react';

const TALL = { paper: { sx: { maxHeight: 380 } } };

/** A menu that drops from the button it was opened with: what the button does, and what the menu is given. */
export function useDropMenu() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close = () => setAnchor(null);
  return {
    open: (event: MouseEvent<HTMLElement>) => setAnchor(event.currentTarget),
    close,
    menu: { anchorEl: anchor, open: Boolean(anchor), onClose: close, slotProps: TALL },
  };
}
