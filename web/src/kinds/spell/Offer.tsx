import { Box, Button, Typography } from '@mui/material';
import { setting } from '../../api/settings';
import { Section } from '../../ui/Section';
import { useSite } from '../../state/site';
import { figure, mono, serif } from '../../theme';
import type { Offered } from '../kind';
import { spellsOf, weatherOf, type Weather } from './spells';
import { weatherNumbers } from './WeatherNumbers';

/** With nothing chosen in the step *Water*: which spell shows and what it does, and what can be added. */
export function Offer({ open, add }: Offered) {
  const items = useSite((s) => s.items);
  const select = useSite((s) => s.select);
  const weather = weatherOf(items);
  const shows = spellsOf(items).find(({ key }) => key === weather.spell);
  return (
    <>
      <Typography sx={{ fontFamily: serif, fontStyle: 'italic', fontSize: 15, color: 'text.secondary', mb: 1 }}>
        A spell is a state of the weather for the whole site: rain and what it leaves wet, snow, frost, fog. Choose one
        at the left, or in the row above the plate to see it.
      </Typography>
      <Section title="Shows now" remark={shows?.plan.name ?? 'weather of no spell'}>
        <Doing weather={weather} />
        {shows && (
          <Button variant="outlined" sx={{ mt: 0.5 }} onClick={() => select(shows.key)}>
            Change {shows.plan.name}
          </Button>
        )}
      </Section>
      <Section title="To add">
        <Addition
          what="A spell"
          about="another weather, begun as the one that shows"
          word="Add"
          onTake={() => add('spell')}
        />
        <Addition
          what="Droplets"
          about="on surfaces of your choice, lying or running"
          word="Add"
          onTake={() => add('beads')}
        />
        <Addition
          what="A pool or running water"
          about="a form of the ground, filled as far as you say"
          word="To the ground"
          onTake={() => open('Ground')}
        />
      </Section>
    </>
  );
}

/** The numbers of a weather that do something. */
function Doing({ weather }: { weather: Weather }) {
  const doing = weatherNumbers
    .flatMap(({ numbers }) => numbers)
    .filter(({ name }) => weather[name] > 0 && name !== 'exposure');
  if (!doing.length)
    return <Typography sx={{ fontSize: 12.5 }}>Dry, clear and still: nothing falls or lies.</Typography>;
  return doing.map(({ name, label }) => {
    const { unit, step } = setting('WeatherPlan', name);
    return (
      <Box key={name} sx={{ display: 'flex', alignItems: 'baseline' }}>
        <Typography sx={{ flex: 1, fontSize: 12.5 }}>{label}</Typography>
        <Typography sx={{ fontFamily: mono, fontSize: 12 }}>
          {figure(weather[name], step >= 1 ? 0 : 2)} {unit}
        </Typography>
      </Box>
    );
  });
}

interface AdditionProps {
  what: string;
  about: string;
  word: string;
  onTake: () => void;
}

function Addition({ what, about, word, onTake }: AdditionProps) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
      <Box sx={{ flex: 1 }}>
        <Typography sx={{ fontFamily: serif, fontSize: 14.5 }}>{what}</Typography>
        <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>{about}</Typography>
      </Box>
      <Button variant="outlined" onClick={onTake} aria-label={`${word}: ${what}`}>
        {word}
      </Button>
    </Box>
  );
}
