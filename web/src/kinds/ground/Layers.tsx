import { Box, Button, MenuItem, Select, Tooltip, Typography } from '@mui/material';
import type { PlanOf, Rule } from '../../api/client';
import { fresh } from '../../api/defaults';
import { Fold } from '../../ui/Fold';
import { MaskButton } from '../../ui/MaskButton';
import { HandList } from '../../ui/HandList';
import { MaterialSelect, SURFACES, useMaterials } from '../../ui/MaterialSelect';
import { numbersOf } from '../../ui/numbers';
import { Rules } from '../../ui/Rules';
import { Section } from '../../ui/Section';
import { ToolRow } from '../../ui/Tools';
import { freshLayer, startRules, starts, type Layer } from './layerStarts';

type Ground = PlanOf<'ground'>;

/** Further surfaces of the ground: gravel, path, rock, each where its rules and strokes say. */
export function Layers({
  itemKey,
  plan,
  onDraft,
  onCommit,
}: {
  itemKey: string;
  plan: Ground;
  onDraft: (plan: Ground) => void;
  onCommit: (label: string, plan: Ground) => void;
}) {
  const materials = useMaterials(SURFACES);
  const put = (index: number, layer: Layer): Ground => ({
    ...plan,
    layers: plan.layers.map((l, k) => (k === index ? layer : l)),
  });
  const add = (material: string) =>
    onCommit(`surface of ${material}`, { ...plan, layers: [...plan.layers, freshLayer(plan, material)] });
  return (
    <Section title="Surfaces over it" remark={plan.layers.length ? 'later ones lie on top' : 'none yet'}>
      {plan.layers.map((layer, k) => {
        const number = numbersOf(
          'GroundLayer',
          layer,
          layer.key,
          (next) => onDraft(put(k, next)),
          (label, next) => onCommit(label, put(k, next)),
        );
        // Histograms are asked as for a patina on the ground.
        const asked = fresh('patina', {
          name: layer.key,
          rules: layer.rules as Rule[],
          uses: [{ surface: 'ground/ground', amount: 1 }],
        });
        return (
          <Fold
            key={layer.key}
            title={layer.key}
            remark={materials.find(([id]) => id === layer.material)?.[1].title ?? layer.material}
            open
          >
            <ToolRow
              paintOn={`ground.${layer.key}`}
              tools={[
                { tool: 'more', label: 'Paint', help: `Paint ${layer.key} onto the ground` },
                { tool: 'less', label: 'Thin', help: `Thin ${layer.key} by hand` },
                { tool: 'erase', label: 'Erase', help: `Leave no ${layer.key} under the brush` },
              ]}
            />
            <MaterialSelect
              label={`Material of ${layer.key}`}
              value={layer.material}
              kinds={SURFACES}
              onChosen={(material) => onCommit(`material of ${layer.key}`, put(k, { ...layer, material }))}
              sx={{ fontSize: 12.5 }}
            />
            {number('amount', 'amount')}
            {number('blend', 'edge by relief')}
            {number('scale', 'pattern size')}
            <Box role="group" aria-label={`Where ${layer.key} lies to begin with`} sx={{ mt: 1 }}>
              <Typography component="span" sx={{ fontSize: 12, color: 'text.secondary' }}>
                lay it
              </Typography>
              {starts.map((start) => (
                <Tooltip key={start.title} title={`${start.help}. Takes the place of its rules.`}>
                  <Button
                    sx={{ px: 0.75 }}
                    onClick={() =>
                      onCommit(`${layer.key} ${start.title}`, put(k, { ...layer, rules: startRules(start) }))
                    }
                  >
                    {start.title}
                  </Button>
                </Tooltip>
              ))}
            </Box>
            <Rules
              itemKey={itemKey}
              plan={{ ...plan, name: layer.key }}
              rules={(layer.rules ?? []) as Rule[]}
              asked={asked}
              title="Where it lies"
              verb="lies"
              remark={`${layer.rules?.length ?? 0} rules`}
              onDraft={(rules) => onDraft(put(k, { ...layer, rules }))}
              onCommit={(label, rules) => onCommit(label, put(k, { ...layer, rules }))}
            />
            <MaskButton of={`ground.${layer.key}`} />
            <HandList target={`ground.${layer.key}`} />
            <Button
              color="error"
              onClick={() =>
                onCommit(`remove ${layer.key}`, { ...plan, layers: plan.layers.filter((_, n) => n !== k) })
              }
            >
              Remove this surface
            </Button>
          </Fold>
        );
      })}
      <Box>
        {plan.layers.length < 4 ? (
          <Select
            variant="standard"
            displayEmpty
            value=""
            onChange={(e) => add(e.target.value)}
            inputProps={{ 'aria-label': 'Add a surface' }}
            sx={{ fontSize: 12.5 }}
          >
            <MenuItem value="" disabled>
              + surface of…
            </MenuItem>
            {materials.map(([id, m]) => (
              <MenuItem key={id} value={id}>
                {m.title}
              </MenuItem>
            ))}
          </Select>
        ) : (
          <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>Four surfaces are the most.</Typography>
        )}
      </Box>
    </Section>
  );
}
