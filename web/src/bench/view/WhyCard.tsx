import { Box, Typography } from '@mui/material';
import { useBench } from '../../state/bench';
import { useSite } from '../../state/site';
import { number } from '../../ui/gate';
import { ink, mono, serif } from '../../theme';

/** Why here: a line a rule for everything that stands at the spot, and what stopped the rest. */
export function WhyCard() {
  const why = useBench((s) => s.why);
  const selected = useSite((s) => s.selected);
  if (!why) return null;
  // Every line for the item in hand and for what stands; for the others what stopped them says enough.
  const full = why.verdicts
    .filter((v) => v.stands || v.item === selected)
    .sort((a, b) => Number(b.item === selected) - Number(a.item === selected));
  const others = why.verdicts.filter((v) => !full.includes(v) && v.lines.length > 0);
  const elsewhere = why.verdicts.filter((v) => !full.includes(v) && v.lines.length === 0);
  return (
    <Box
      role="tooltip"
      aria-label="Why here"
      sx={{
        position: 'absolute',
        left: why.x > 400 ? why.x - 350 : why.x + 18,
        top: 48,
        width: 332,
        maxHeight: 'calc(100% - 60px)',
        overflow: 'hidden',
        pointerEvents: 'none',
        bgcolor: ink.panel,
        border: `1px solid ${ink.ink}`,
        p: 1,
        zIndex: 4,
      }}
    >
      {why.verdicts.length === 0 && <Typography sx={{ fontSize: 12 }}>Nothing on this site could be here.</Typography>}
      {full.map((v) => (
        <Box key={v.item} sx={{ mb: 0.75 }}>
          <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 0.75 }}>
            <Sign stands={v.stands} />
            <Typography sx={{ fontFamily: serif, fontSize: 13.5, flex: 1 }}>{v.name}</Typography>
            <Typography sx={{ fontFamily: mono, fontSize: 10.5, color: 'text.secondary' }}>{v.kind}</Typography>
          </Box>
          <Typography sx={{ fontSize: 11.5, color: v.stands ? 'inherit' : 'warning.main' }}>{v.summary}</Typography>
          {v.lines.map((line, k) => (
            <Box
              key={k}
              sx={{
                display: 'grid',
                gridTemplateColumns: '76px 54px 1fr',
                columnGap: 0.5,
                fontSize: 11,
                fontFamily: mono,
                color: line.allows <= 0.001 ? ink.brick : ink.soft,
              }}
            >
              <span>{line.what}</span>
              <span>{line.value === null ? '' : number(line.value, line.unit)}</span>
              <span>{line.text}</span>
            </Box>
          ))}
        </Box>
      ))}
      {others.map((v) => (
        <Typography key={v.item} sx={{ fontSize: 11, lineHeight: 1.4, color: 'warning.main' }}>
          <Sign stands={v.stands} />{' '}
          <span style={{ fontFamily: serif, fontSize: 12.5, color: ink.ink }}>{v.name}.</span> {v.summary}
        </Typography>
      ))}
      {elsewhere.length > 0 && (
        <Typography sx={{ fontSize: 11, lineHeight: 1.4, color: 'text.secondary' }}>
          This surface is none of theirs: {elsewhere.map((v) => v.name).join(', ')}.
        </Typography>
      )}
    </Box>
  );
}

const Sign = ({ stands }: { stands: boolean }) => (
  <Box
    component="span"
    sx={{
      display: 'inline-block',
      width: 8,
      height: 8,
      flexShrink: 0,
      bgcolor: stands ? ink.water : 'transparent',
      border: `1px solid ${stands ? ink.water : ink.soft}`,
    }}
  />
);
