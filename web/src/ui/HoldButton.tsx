import { Button, Tooltip } from '@mui/material';
import { useEffect, useRef, type ReactNode } from 'react';

interface Props {
  children: ReactNode;
  help: string;
  label?: string;
  disabled?: boolean;
  onHold: () => void;
  onLetGo: () => void;
}

/** Shows something as long as it is held, by pointer or by the space bar. */
export function HoldButton({ children, help, label, disabled, onHold, onLetGo }: Props) {
  const held = useRef(false);
  const hold = () => {
    if (held.current || disabled) return;
    held.current = true;
    onHold();
  };
  const letGo = () => {
    if (!held.current) return;
    held.current = false;
    onLetGo();
  };
  // Gone while it is held, it lets go: what it shows must not stay.
  const latest = useRef(letGo);
  useEffect(() => {
    latest.current = letGo;
  });
  useEffect(() => () => latest.current(), []);
  return (
    <Tooltip title={help}>
      <span>
        <Button
          aria-label={label}
          disabled={disabled}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            hold();
          }}
          onPointerUp={letGo}
          onPointerCancel={letGo}
          onKeyDown={(event) => event.key === ' ' && hold()}
          onKeyUp={(event) => event.key === ' ' && letGo()}
          onBlur={letGo}
          sx={{ px: 0.75, lineHeight: 1.2, fontSize: 11.5 }}
        >
          {children}
        </Button>
      </span>
    </Tooltip>
  );
}
