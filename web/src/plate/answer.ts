/** How something answers to the weather: porosity, share of the snow that slips off, and 1 where no frost forms. */
export type Answer = readonly [number, number, number];

/** What a plan says of it; what it does not say, its material does. */
export interface Response {
  soaks?: number | null;
  takes_snow?: boolean;
  takes_frost?: boolean;
}

export const answerOf = (
  { soaks, takes_snow: snow = true, takes_frost: frost = true }: Response,
  { porosity, sheds = 0 }: { porosity: number; sheds?: number },
): Answer => [soaks ?? porosity, snow ? sheds : 1, frost ? 0 : 1];

/** Does it answer by its material alone? */
export const byMaterial = ({ soaks, takes_snow: snow, takes_frost: frost }: Response) =>
  (soaks ?? null) === null && snow !== false && frost !== false;
