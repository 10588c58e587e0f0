import { Box, Button, Typography } from '@mui/material';
import { useRef, useState, type ReactNode } from 'react';
import { sentence, writeHeaders, type PlanOf } from '../../api/client';
import { useSite } from '../../state/site';
import { mono } from '../../theme';
import { Fold } from '../../bench/controls/Fold';
import { ImageChoice, usePictures } from '../../bench/controls/RuleDetails';

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
  const chooser = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState('');
  const site = useSite((s) => s.id);
  const { pictures, refresh } = usePictures();
  const bring = async (file: File) => {
    const body = new FormData();
    body.append('file', file);
    try {
      const answer = await fetch(`/api/kit/pictures?site=${site}`, {
        method: 'POST',
        body,
        headers: writeHeaders(),
        credentials: 'same-origin',
      });
      const data = await answer.json();
      if (!answer.ok) return setTrouble(sentence(data));
      setTrouble('');
      await refresh();
      onCommit('height image', { ...plan, image: data.id });
    } catch (error) {
      setTrouble(sentence(error));
    }
  };
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
      {trouble && (
        <Typography role="alert" sx={{ fontSize: 12, color: 'error.main' }}>
          {trouble}
        </Typography>
      )}
      {plan.image && (
        <ImageChoice value={plan.image} onChange={(image) => onCommit('height image', { ...plan, image })} />
      )}
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
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="Height image file"
        accept=".png,.tif,.tiff,.exr"
        onChange={(e) => {
          if (e.target.files?.[0]) void bring(e.target.files[0]);
          e.target.value = '';
        }}
      />
      <Button onClick={() => chooser.current?.click()}>Bring in PNG, TIFF or EXR</Button>
      {plan.image && (
        <Button color="inherit" onClick={() => onCommit('no height image', { ...plan, image: null })}>
          Without image
        </Button>
      )}
    </Fold>
  );
}
