import { Box, ButtonBase, Typography } from '@mui/material';
import { useBench, useBenchParts } from '../../state/bench';
import { useAssets, useManifest } from '../../state/derived';
import { ink, mono, serif } from '../../theme';
import { AssetPicture } from '../AssetPicture';

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
          return list.length ? (
            <Box key={kind} sx={{ mb: 1.5 }}>
              <Typography variant="h3" sx={{ borderBottom: `1px solid ${ink.ink}`, mb: 0.75 }}>
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
