import { Box, Typography } from '@mui/material';
import { figure } from '../../theme';
import { Fold } from '../../ui/Fold';
import { HandList } from '../../ui/HandList';
import { numbersOf } from '../../ui/numbers';
import { MaterialSelect, SURFACES } from '../../ui/MaterialSelect';
import { Section } from '../../ui/Section';
import { ToolRow } from '../../ui/Tools';
import { useItem } from '../../ui/useItem';
import { Forms } from './Forms';
import { HeightImage } from './HeightImage';
import { Layers } from './Layers';

export function GroundSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep } = useItem(itemKey, 'ground');
  if (!plan) return null;
  const number = numbersOf('GroundPlan', plan, 'the ground', change, keep);
  const points = (Math.round(plan.width / plan.cell) + 1) * (Math.round(plan.depth / plan.cell) + 1);
  return (
    <>
      <ToolRow
        depth
        tools={[
          { tool: 'raise', label: 'Raise', help: 'Raise the ground under the brush' },
          { tool: 'lower', label: 'Lower', help: 'Lower the ground under the brush' },
          { tool: 'smooth', label: 'Smooth', help: 'Take the unevenness out' },
          { tool: 'flatten', label: 'Flatten', help: 'Bring it to the height where the stroke begins' },
          { tool: 'roughen', label: 'Roughen', help: 'Add unevenness' },
          { tool: 'erode', label: 'Erode', help: 'Let what is steeper than loose soil slide down' },
          { tool: 'look', label: 'Look', help: 'Drag turns the view, right button moves it, wheel goes nearer' },
        ]}
      />
      <Section title="Sheet" remark={`${figure(points)} points`}>
        {number('width', 'west to east')}
        {number('depth', 'north to south')}
        {number('cell', 'distance of points')}
      </Section>
      <Section title="Unevenness">
        {number('amount', 'amount')}
        {number('feature', 'width of humps')}
        {number('detail', 'finer layers')}
        {number('ridged', 'ridges, from soft to sharp')}
        {number('seed', 'seed')}
      </Section>
      <HeightImage plan={plan} number={number} onCommit={keep} />
      <Forms plan={plan} onDraft={change} onCommit={keep} />
      <Section title="Lowest surface">
        <MaterialSelect
          label="Material of the ground"
          value={plan.material}
          kinds={SURFACES}
          onChosen={(material) => keep('material of the ground', { ...plan, material })}
        />
      </Section>
      <Layers itemKey={itemKey} plan={plan} onDraft={change} onCommit={keep} />
      <HandList target="ground" />
      <Fold title="How it is put together" remark="">
        <Box sx={{ fontSize: 12 }}>
          <Typography sx={{ fontSize: 12 }}>
            Image and unevenness first, then the forms in their order, then strokes of the hand; pieces stand on that,
            and pads level it under them. Drifts and pieces follow every change.
          </Typography>
        </Box>
      </Fold>
    </>
  );
}
