/** As the core numbers the tufts of a grass; see core/cenote_core/kit/own.py. */
export const OWN = 'own-';
export const TUFTS = 3;

/** The assets a grass of one's own stands for. */
export const tuftsOf = (item: string) => Array.from({ length: TUFTS }, (_, n) => `${OWN}${item}.${n + 1}`);

/** The item an asset is a tuft of, if it is one. */
export const grassOf = (asset: string) =>
  asset.startsWith(OWN) ? asset.slice(OWN.length, asset.lastIndexOf('.')) : null;
