import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { api, given, sentence, writeHeaders } from '../api/client';
import { useSite } from '../state/site';

/** The images that were brought in for the open site. */
export function usePictures() {
  const id = useSite((s) => s.id);
  const query = useQuery({
    queryKey: ['pictures', id],
    enabled: Boolean(id),
    queryFn: async () => given(await api.GET('/api/kit/pictures', { params: { query: { site: id } } })),
  });
  return { pictures: query.data ?? [], refresh: query.refetch };
}

async function bringIn(site: string, file: File): Promise<string> {
  const body = new FormData();
  body.append('file', file);
  const answer = await fetch(`/api/kit/pictures?site=${site}`, {
    method: 'POST',
    body,
    headers: writeHeaders(),
    credentials: 'same-origin',
  });
  const data = await answer.json();
  if (!answer.ok) throw data;
  return data.id;
}

interface Props {
  /** What the image is for: "Height image", "Mask image". */
  what: string;
  value: string | null;
  onChange: (id: string | null) => void;
}

/** Choose among a site's images, bring another one in, take one away (and put it back). */
export function PictureChoice({ what, value, onChange }: Props) {
  const site = useSite((s) => s.id);
  const chooser = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState('');
  const [taken, setTaken] = useState<{ id: string; title: string } | null>(null);
  const { pictures, refresh } = usePictures();
  const shown = pictures.find((p) => p.id === value);

  const told = async (work: () => Promise<void>) => {
    try {
      await work();
      setTrouble('');
      await refresh();
    } catch (error) {
      setTrouble(sentence(error));
    }
  };
  const bring = (file: File) => told(async () => onChange(await bringIn(site, file)));
  const remove = (picture: { id: string; title: string }) =>
    told(async () => {
      const { error } = await api.DELETE('/api/kit/pictures/{picture_id}', {
        params: { path: { picture_id: picture.id } },
      });
      if (error) throw error;
      setTaken(picture);
    });
  const putBack = (picture: { id: string; title: string }) =>
    told(async () => {
      const { error } = await api.POST('/api/kit/pictures/{picture_id}/restore', {
        params: { path: { picture_id: picture.id } },
      });
      if (error) throw error;
      setTaken(null);
    });

  return (
    <Box>
      {trouble && (
        <Typography role="alert" sx={{ fontSize: 12, color: 'error.main' }}>
          {trouble}
        </Typography>
      )}
      {(pictures.length > 0 || value) && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Select
            variant="standard"
            displayEmpty
            value={value ?? ''}
            onChange={(e) => onChange(e.target.value || null)}
            inputProps={{ 'aria-label': what }}
            sx={{ fontSize: 12, minWidth: 120 }}
          >
            <MenuItem value="">none</MenuItem>
            {value && !shown && <MenuItem value={value}>missing</MenuItem>}
            {pictures.map((p) => (
              <MenuItem key={p.id} value={p.id}>
                {p.title}
              </MenuItem>
            ))}
          </Select>
          {shown && <img alt="" src={`/api/kit/pictures/${shown.id}/small.png`} style={{ height: 28 }} />}
        </Box>
      )}
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label={`${what} file`}
        accept=".png,.tif,.tiff,.exr"
        onChange={(e) => {
          if (e.target.files?.[0]) void bring(e.target.files[0]);
          e.target.value = '';
        }}
      />
      <Button onClick={() => chooser.current?.click()}>Bring in PNG, TIFF or EXR</Button>
      {shown && (
        <Button color="inherit" onClick={() => void remove(shown)}>
          Take out of the site
        </Button>
      )}
      {taken && (
        <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Typography sx={{ fontSize: 12 }}>‘{taken.title}’ was taken out.</Typography>
          <Button onClick={() => void putBack(taken)}>Put it back</Button>
        </Box>
      )}
    </Box>
  );
}
