/** What stands in a shader's source, and what is put in its place. */
export type Patch = readonly [find: string, put: string];

/**
 * The source of a shader with its first of each put in place. What is looked for must be there: a shader that has lost a
 * part of itself would otherwise only look a little wrong.
 */
export function patched(source: string, ...patches: Patch[]): string {
  return patches.reduce((text, [find, put]) => {
    if (!text.includes(find)) throw new Error(`The shader has no ‘${find}’ to be replaced.`);
    return text.replace(find, () => put);
  }, source);
}
