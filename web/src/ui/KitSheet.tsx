import { Box, Button, ButtonBase, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, sentence } from '../api/client';
import { useBench, useBenchParts } from '../state/bench';
import { useAssets, useManifest } from '../state/derived';
import { useSite } from '../state/site';
import { ink, mono, serif } from '../theme';
import { AssetPicture } from './AssetPicture';

/** What can be set down with a click: assets of the kit, or decal pictures. */
export function KitSheet() {
  const of = useBench((s) => s.step);
  const assets = useAssets();
  const manifest = useManifest().data;
  const { armed, set } = useBenchParts('armed', 'set');
  const isArmed = (id: string) => armed?.some((a) => a.id === id) ?? false;
  const arm = (id: string, title: string) =>
    set(isArmed(id) ? { armed: null, tool: 'look' } : { armed: [{ id, title }], tool: 'place' });
  const tile = (id: string, title: string, remark: string, picture: React.ReactNode) => (
    <ButtonBase
      key={id}
      onClick={() => arm(id, title)}
      aria-pressed={isArmed(id)}
      sx={{
        flexDirection: 'column',
        alignItems: 'stretch',
        p: 0.5,
        border: `1px solid ${isArmed(id) ? ink.water : ink.line}`,
        bgcolor: isArmed(id) ? ink.waterPale : 'transparent',
      }}
    >
      <Box
        sx={{
          height: 72,
          display: 'flex',
          alignItems: 'flex-end',
          justifyContent: 'center',
          borderBottom: `1px solid ${ink.line}`,
        }}
      >
        {picture}
      </Box>
      <Typography sx={{ fontSize: 11.5, textAlign: 'left', lineHeight: 1.25, mt: 0.5 }}>{title}</Typography>
      <Typography sx={{ fontFamily: mono, fontSize: 10, textAlign: 'left', color: 'text.secondary' }}>
        {remark}
      </Typography>
    </ButtonBase>
  );
  return (
    <>
      <Typography sx={{ fontFamily: serif, fontSize: 20 }}>
        {of === 'Pieces' ? 'Place a piece' : 'Place a decal'}
      </Typography>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mb: 1 }}>
        {armed
          ? 'Click in the plate to set it down. Before that the keys , and . turn it, - and = size it; Esc puts it back.'
          : of === 'Pieces'
            ? 'Choose one, then click where it shall stand.'
            : 'Choose a picture, then click the surface it shall lie on.'}
      </Typography>
      {of === 'Pieces' ? (
        ['imported', 'structure', 'prop', 'stone', 'plant'].map((kind) => {
          const list = assets.filter((a) => a.kind === kind);
          return list.length || kind === 'imported' ? (
            <Box key={kind} sx={{ mb: 1.5 }}>
              <Typography
                variant="h3"
                sx={{ borderBottom: `1px solid ${ink.ink}`, mb: 0.75, display: list.length ? 'block' : 'none' }}
              >
                {
                  { imported: 'Brought in', structure: 'Structures', prop: 'Props', stone: 'Stones', plant: 'Plants' }[
                    kind
                  ]
                }
              </Typography>
              <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 0.75 }}>
                {list.map((a) =>
                  tile(
                    a.id,
                    a.title,
                    `${a.size[0].toFixed(1)} × ${a.size[1].toFixed(1)} m`,
                    <AssetPicture asset={a} size={68} />,
                  ),
                )}
              </Box>
              {kind === 'imported' && <TakeOut models={list} />}
            </Box>
          ) : null;
        })
      ) : (
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.75 }}>
          {Object.entries(manifest?.materials ?? {})
            .filter(([, m]) => m.kind === 'decal')
            .map(([id, m]) =>
              tile(
                id,
                m.title,
                '',
                <img alt="" src={`${m.url}/colour.webp?side=128`} style={{ height: 70, background: '#bdb8ac' }} />,
              ),
            )}
        </Box>
      )}
    </>
  );
}

/** Take a model out of the site's kit, or put back what was. */
function TakeOut({ models }: { models: { id: string; title: string }[] }) {
  const queries = useQueryClient();
  const [taken, setTaken] = useState<{ id: string; title: string } | null>(null);
  const say = useSite((s) => s.say);
  const send = async (model: { id: string; title: string }, back: boolean) => {
    const params = { params: { path: { import_id: model.id } } };
    const { error } = back
      ? await api.POST('/api/kit/imports/{import_id}/restore', params)
      : await api.DELETE('/api/kit/imports/{import_id}', params);
    if (error) return say(sentence(error));
    setTaken(back ? null : model);
    await Promise.all(['assets', 'scene', 'effects'].map((name) => queries.invalidateQueries({ queryKey: [name] })));
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      {models.map((model) => (
        <Button key={model.id} color="inherit" onClick={() => void send(model, false)}>
          Take ‘{model.title}’ out
        </Button>
      ))}
      {taken && (
        <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Typography sx={{ fontSize: 12 }}>‘{taken.title}’ was taken out of the kit.</Typography>
          <Button onClick={() => void send(taken, true)}>Put it back</Button>
        </Box>
      )}
    </Box>
  );
}
