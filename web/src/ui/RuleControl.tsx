import { Box, Button, Checkbox, InputBase, Tooltip, Typography } from '@mui/material';
import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import type { Rule, Schemas } from '../api/client';
import { ink, mono, serif } from '../theme';
import { measures } from '../api/measures';
import { gateFields, moved, number, readOut, response, type GateField } from './gate';
import { HoldButton } from './HoldButton';
import { RuleDetails } from './RuleDetails';
import { memoControl } from './memoControl';

interface Props {
  rule: Rule;
  /** What the item does where the rule lets it: stands, gathers, lies. */
  verb: string;
  histogram: Schemas['Histogram'] | undefined;
  /** The measure's value under the pointer in the plate. */
  marker?: number | null;
  onDraft: (rule: Rule) => void;
  onCommit: (rule: Rule) => void;
  onRemove: () => void;
  /** Show the measure itself: this rule in place of all, opening evenly over what is shown; null: no longer. */
  onShow?: (rule: Rule | null) => void;
}

/** Past every value a measure has. */
const BEYOND = 10_000;
const W = 288;
const H = 58;
const FOOT = 14;

/** The signature control: a histogram of the measure with the gate's trapezoid laid over it. */
export const RuleControl = memoControl<Props>(function RuleControl({
  rule,
  verb,
  histogram,
  marker,
  onDraft,
  onCommit,
  onRemove,
  onShow,
}) {
  const svg = useRef<SVGSVGElement>(null);
  const dragged = useRef<{ field: GateField; rule: Rule } | null>(null);
  const { gate, measure } = rule;
  const unit = measures[measure].unit;
  const edges = histogram?.edges ?? measures[measure].span ?? [0, 1];
  const span: [number, number] = [edges[0], edges[edges.length - 1]];
  const step = unit === '°' ? 0.5 : (span[1] - span[0]) / 200;
  const x = (v: number) => Math.min(W, Math.max(0, ((v - span[0]) / (span[1] - span[0])) * W));
  const tallest = Math.max(1e-9, ...(histogram?.areas ?? []));
  const share = histogram ? shareOf(histogram, rule) : null;

  const valueAt = (event: PointerEvent) => {
    const box = svg.current!.getBoundingClientRect();
    const raw = span[0] + ((event.clientX - box.left) / box.width) * (span[1] - span[0]);
    return Number((Math.round(Math.min(span[1], Math.max(span[0], raw)) / step) * step).toFixed(4));
  };
  const start = (field: GateField) => (event: PointerEvent<SVGRectElement>) => {
    event.preventDefault();
    (event.target as SVGRectElement).focus();
    event.currentTarget.setPointerCapture(event.pointerId);
    dragged.current = { field, rule };
  };
  const drag = (event: PointerEvent<SVGRectElement>) => {
    if (!dragged.current) return;
    const next = { ...rule, gate: moved(rule.gate, dragged.current.field, valueAt(event)) };
    dragged.current.rule = next;
    onDraft(next);
  };
  const release = (event: PointerEvent<SVGRectElement>) => {
    if (!dragged.current) return;
    event.currentTarget.releasePointerCapture(event.pointerId);
    const last = dragged.current.rule;
    dragged.current = null;
    onCommit(last);
  };
  const keys = (field: GateField) => (event: KeyboardEvent) => {
    const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (!by) return;
    event.preventDefault();
    onCommit({
      ...rule,
      gate: moved(gate, field, Number((gate[field] + by * step * (event.shiftKey ? 10 : 1)).toFixed(4))),
    });
  };

  const path = `M${x(gate.rise_start)},${H} L${x(gate.rise_end)},2 L${x(gate.fall_start)},2 L${x(gate.fall_end)},${H}`;
  const ends: Record<GateField, [number, number]> = {
    rise_start: [x(gate.rise_start), H],
    rise_end: [x(gate.rise_end), 2],
    fall_start: [x(gate.fall_start), 2],
    fall_end: [x(gate.fall_end), H],
  };
  const words: Record<GateField, string> = {
    rise_start: 'starts',
    rise_end: 'full from',
    fall_start: 'full to',
    fall_end: 'ends',
  };

  return (
    <Box data-rule={measure} sx={{ mb: 1, opacity: rule.active === false ? 0.5 : 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Tooltip
          title={rule.active === false ? 'Switched off. Tick to let it count.' : 'Counts. Untick to leave it out.'}
        >
          <Checkbox
            size="small"
            checked={rule.active !== false}
            onChange={(e) => onCommit({ ...rule, active: e.target.checked })}
            slotProps={{ input: { 'aria-label': `${measure} rule counts` } }}
            sx={{ p: 0.25, ml: -0.5 }}
          />
        </Tooltip>
        <Tooltip title={measures[measure].says} placement="right">
          <Typography sx={{ flex: 1 }}>
            {measures[measure].title}
            {measures[measure].badge && <Small> {badgeOf(rule)}</Small>}
          </Typography>
        </Tooltip>
        <Typography data-share sx={{ fontFamily: mono, fontSize: 11 }}>
          {share === null ? '…' : `lets ${Math.round(share * 100)} % through`}
        </Typography>
        {onShow && (
          <HoldButton
            label={`See ${measure} alone`}
            help={`Hold to see this measure alone in the plate: pale ${label(span[0], unit)}, dark ${label(span[1], unit)} and more`}
            onHold={() => onShow({ ...rule, active: true, strength: 1, gate: evenly(span) })}
            onLetGo={() => onShow(null)}
          >
            see
          </HoldButton>
        )}
        <Tooltip title="Take this rule away">
          <Button
            color="inherit"
            aria-label={`Remove ${measure} rule`}
            onClick={onRemove}
            sx={{ px: 0.75, ml: 0.5, lineHeight: 1 }}
          >
            ×
          </Button>
        </Tooltip>
      </Box>
      <svg
        ref={svg}
        viewBox={`0 -4 ${W} ${H + FOOT + 4}`}
        width="100%"
        style={{ overflow: 'visible', touchAction: 'none', display: 'block' }}
        role="group"
        aria-label={`${measure} gate`}
      >
        {histogram?.areas.map((area, k) => {
          const middle = (edges[k] + edges[k + 1]) / 2;
          const tall = (area / tallest) ** 0.6 * (H - 6);
          const width = W / histogram.areas.length;
          const passed = tall * response(gate, middle);
          return (
            <g key={k}>
              <rect x={k * width} width={Math.max(width - 0.8, 0.5)} y={H - tall} height={tall} fill="#CFC8BA" />
              <rect
                x={k * width}
                width={Math.max(width - 0.8, 0.5)}
                y={H - passed}
                height={passed}
                fill={ink.water}
                fillOpacity={0.62}
              />
            </g>
          );
        })}
        <line x1={0} x2={W} y1={H} y2={H} stroke={ink.ink} strokeWidth={0.8} />
        {marker !== undefined && marker !== null && (
          <g data-marker={marker}>
            <line x1={x(marker)} x2={x(marker)} y1={-3} y2={H} stroke={ink.ochre} strokeWidth={1.4} />
            <text
              x={Math.min(W - 30, Math.max(2, x(marker) + 4))}
              y={6}
              fontSize={9}
              fontFamily={mono}
              fill={ink.ochre}
            >
              {number(marker, unit)}
            </text>
          </g>
        )}
        <path d={path} fill="none" stroke={ink.ink} strokeWidth={1.4} />
        {gateFields.map((field) => (
          <rect
            key={field}
            data-handle={field}
            x={ends[field][0] - 4.5}
            y={ends[field][1] - 4.5}
            width={9}
            height={9}
            fill={ink.panel}
            stroke={ink.ink}
            strokeWidth={1.2}
            tabIndex={0}
            role="slider"
            aria-label={`${measure} ${words[field]}`}
            aria-valuenow={gate[field]}
            aria-valuemin={span[0]}
            aria-valuemax={span[1]}
            style={{ cursor: 'ew-resize' }}
            onPointerDown={start(field)}
            onPointerMove={drag}
            onPointerUp={release}
            onPointerCancel={release}
            onKeyDown={keys(field)}
          />
        ))}
        <text x={0} y={H + 11} fontSize={9} fontFamily={mono} fill={ink.soft}>
          {label(span[0], unit)}
        </text>
        <text x={W / 2} y={H + 11} fontSize={9} fontFamily={mono} fill={ink.soft} textAnchor="middle">
          {label((span[0] + span[1]) / 2, unit)}
        </text>
        <text x={W} y={H + 11} fontSize={9} fontFamily={mono} fill={ink.soft} textAnchor="end">
          {label(span[1], unit)}
        </text>
      </svg>
      <Typography sx={{ fontFamily: serif, fontStyle: 'italic', fontSize: 12.5, color: 'text.secondary' }}>
        {readOut(rule, verb, span)}
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(4, 1fr)', gap: 0.5 }}>
        {gateFields.map((field) => (
          <Typed
            key={field}
            word={words[field]}
            value={gate[field]}
            onCommit={(v) => onCommit({ ...rule, gate: moved(gate, field, v) })}
            name={`${measure} ${words[field]}, typed`}
          />
        ))}
      </Box>
      <RuleDetails rule={rule} onDraft={onDraft} onCommit={onCommit} />
    </Box>
  );
});

/** A gate that opens evenly over a span. */
const evenly = ([low, high]: [number, number]) => ({
  rise_start: low,
  rise_end: high,
  fall_start: BEYOND,
  fall_end: BEYOND,
});

const Small = ({ children }: { children: React.ReactNode }) => (
  <Typography component="span" sx={{ fontSize: 11, color: 'text.secondary' }}>
    {children}
  </Typography>
);

const winds = ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west'];
const bearing = (degrees: number) => (degrees % 45 === 0 ? winds[(degrees / 45) % 8] : `${degrees}°`);

/** What is shown beside the title, its fields filled in. */
function badgeOf(rule: Rule): string {
  const { badge, fields } = measures[rule.measure];
  const values = rule as unknown as Record<string, number>;
  return badge.replace(/\{(\w+)\}/g, (_, name: string) =>
    fields.find((f) => f.name === name)?.bearing ? bearing(values[name]) : String(values[name]),
  );
}

const label = (v: number, unit: string) =>
  unit === '' ? v.toFixed(1) : `${Number(v.toFixed(1))}${unit === '°' ? unit : ` ${unit}`}`;

/** While the gate is dragged the share is worked out from the bins; the exact one follows from the server. */
function shareOf(histogram: Schemas['Histogram'], rule: Rule): number {
  const total = histogram.areas.reduce((a, b) => a + b, 0);
  if (total <= 0) return 0;
  const passed = histogram.areas.reduce(
    (sum, area, k) => sum + area * response(rule.gate, (histogram.edges[k] + histogram.edges[k + 1]) / 2),
    0,
  );
  const exact = histogram.share;
  const asServed = histogram.passed.reduce((a, b) => a + b, 0) / total;
  return Math.abs(passed / total - asServed) < 0.02 ? exact : passed / total;
}

const Typed = memoControl(function Typed({
  word,
  value,
  onCommit,
  name,
}: {
  word: string;
  value: number;
  onCommit: (v: number) => void;
  name: string;
}) {
  return (
    <Box>
      <Typography sx={{ fontSize: 10, color: 'text.secondary', lineHeight: 1.2 }}>{word}</Typography>
      <InputBase
        key={value}
        defaultValue={Number(value.toFixed(3))}
        onBlur={(e) => {
          const v = Number(e.target.value.replace(',', '.'));
          if (Number.isFinite(v) && Math.abs(v) <= 10000 && v !== value) onCommit(v);
          else e.target.value = String(Number(value.toFixed(3)));
        }}
        onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLInputElement).blur()}
        inputProps={{
          'aria-label': name,
          style: { fontFamily: mono, fontSize: 11, padding: '0 2px', borderBottom: `1px solid ${ink.line}` },
        }}
      />
    </Box>
  );
});
