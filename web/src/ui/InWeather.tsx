import { Box, Button } from '@mui/material';
import type { Response } from '../plate/answer';
import { Field } from './Field';
import { Section } from './Section';

interface Props {
  /** A model that has the fields of a response. */
  model: string;
  value: Response;
  onDraft: (next: Response) => void;
  onCommit: (label: string, next: Response) => void;
}

/** How far what is not said otherwise takes water up, to begin from. */
const HALF = 0.5;

/** How something answers to water, snow and frost: as its material does, or in its own way. */
export function InWeather({ model, value, onDraft, onCommit }: Props) {
  const { soaks, takes_snow: snow = true, takes_frost: frost = true } = value;
  const own = typeof soaks === 'number';
  const said = [own && `soaks ${soaks.toFixed(2)}`, !snow && 'no snow', !frost && 'no frost'].filter(Boolean);
  const button = (label: string, pressed: boolean, next: Response) => (
    <Button
      variant={pressed ? 'contained' : 'outlined'}
      aria-pressed={pressed}
      onClick={() => onCommit(label, next)}
      sx={{ mr: 0.5, mb: 0.5 }}
    >
      {label}
    </Button>
  );
  return (
    <Section title="In the weather" remark={said.join(', ') || 'as its material does'}>
      <Box>
        {button('Keep it free of snow', !snow, { takes_snow: !snow })}
        {button('Keep it free of frost', !frost, { takes_frost: !frost })}
        {button('Its own way to soak', own, { soaks: own ? null : HALF })}
      </Box>
      {own && (
        <Field
          model={model}
          field="soaks"
          label="takes water up"
          value={soaks}
          onDraft={(v) => onDraft({ soaks: v })}
          onCommit={(v) => onCommit('takes water up', { soaks: v })}
        />
      )}
    </Section>
  );
}
