import { Box } from '@mui/material';
import type { ReactNode } from 'react';
import type { PlanOf } from '../../api/client';
import { mono } from '../../theme';
import { Fold } from '../../ui/Fold';
import { PictureChoice, usePictures } from '../../ui/Pictures';

type Ground = PlanOf<'ground'>;

/** The height image the sheet starts from: brought in, cropped, scaled, smoothed. */
export function HeightImage({
  plan,
  number,
  onCommit,
}: {
  plan: Ground;
  number: (field: keyof Ground & string, label: string) => ReactNode;
  onCommit: (label: string, plan: Ground) => void;
}) {
  const { pictures } = usePictures();
  const shown = pictures.find((p) => p.id === plan.image);
  const crop = (index: number, value: number) => {
    const next = plan.image_crop.map((v, k) => (k === index ? value : v)) as Ground['image_crop'];
    if (next[0] < next[2] && next[1] < next[3]) onCommit('crop of the height image', { ...plan, image_crop: next });
  };
  return (
    <Fold
      title="Height image"
      remark={shown ? `${shown.width} × ${shown.height} px` : plan.image ? 'missing' : 'none'}
      open={Boolean(plan.image)}
    >
      <PictureChoice
        what="Height image"
        value={plan.image}
        onChange={(image) => onCommit(image ? 'height image' : 'no height image', { ...plan, image })}
      />
      {plan.image && number('image_height', 'black to white')}
      {plan.image && number('image_smooth', 'smooth its steps')}
      {plan.image && (
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(4, 1fr)', gap: 0.5, my: 0.5 }}>
          {(['left', 'top', 'right', 'bottom'] as const).map((side, k) => (
            <label key={side} style={{ fontSize: 10.5 }}>
              {side}, 0–1
              <input
                type="number"
                min={0}
                max={1}
                step={0.05}
                aria-label={`Crop ${side}`}
                value={plan.image_crop[k]}
                onChange={(e) => crop(k, Math.min(1, Math.max(0, Number(e.target.value))))}
                style={{
                  width: '100%',
                  boxSizing: 'border-box',
                  padding: '2px 4px',
                  borderRadius: 2,
                  fontFamily: mono,
                  fontSize: 11,
                  border: '1px solid #cfcabd',
                  background: 'none',
                }}
              />
            </label>
          ))}
        </Box>
      )}
    </Fold>
  );
}
