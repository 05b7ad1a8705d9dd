import type { Subject } from './paint/scenes';

/** What the people of Saltreach write under their pictures, by subject. */
export const WORDS: Record<Subject, { titles: string[]; captions: string[]; terms: string[] }> = {
  dunes: {
    titles: ['Over the second dune', 'Line out, dunes below', 'Handler on the ridge', 'First lift'],
    captions: [
      'A handler keeps the line tight while the kite settles above the dunes.',
      'The wind swings to the north and the kite climbs over the marram ridge.',
    ],
    terms: ['Dune under Shore', 'Handler', 'Wind Week'],
  },
  flats: {
    titles: [
      'Low tide on the flats',
      'Mirror sand',
      'Test flights at low water',
      'Three on the flats',
    ],
    captions: [
      'Wet sand doubles the sky during the low-tide test flights.',
      'The beach team trims bridles on the flats before the crowd arrives.',
    ],
    terms: ['Tidal flat under Shore', 'Reflection', 'Wind Week'],
  },
  harbour: {
    titles: ['Beyond the north groyne', 'Harbour flight', 'Boats keep clear', 'Groyne and sails'],
    captions: [
      'Kites fly clear of the boats beyond the north groyne.',
      'Small boats turn home below the harbour flight.',
    ],
    terms: ['Groyne under Shore', 'Boat', 'Harbour'],
  },
  sky: {
    titles: ['Box kite, steady', 'Sail against cloud', 'Pair climbing', 'High and quiet'],
    captions: [
      'The sail fills and the spars hold; nothing else in the sky.',
      'A clean study of the sail for the festival book.',
    ],
    terms: ['Sail under Kite', 'Sky'],
  },
  night: {
    titles: ['Night kites', 'Lamps aloft', 'Lit sails over the bay', 'After the drum'],
    captions: [
      'Sails lit from within hang over the bay at the night flight.',
      'The crowd looks up as the lamps are switched on.',
    ],
    terms: ['Night kite under Kite', 'Crowd', 'Wind Week'],
  },
  festival: {
    titles: ['Opening afternoon', 'Tents and bunting', 'The whole beach', 'Crowd turns'],
    captions: [
      'Wind Week opens: tents, bunting and the first kites of the afternoon.',
      'The crowd turns as the big sails go up behind the tents.',
    ],
    terms: ['Crowd', 'Festival', 'Wind Week'],
  },
  bench: {
    titles: ['Panels on the bench', 'Cut and ready', 'Bench before noon', 'Shears and sailcloth'],
    captions: [
      'Panels of ripstop wait on the bench, seam allowance marked.',
      'Shears, thread and the first cut panels of the new sail.',
    ],
    terms: ['Bench under Workshop', 'Shears under Tool', 'Sailcloth'],
  },
  table: {
    titles: ['Sail on the table', 'Ready for spars', 'One finished sail', 'Final check'],
    captions: [
      'A finished sail lies on the table, spars beside it.',
      'Final check of seams before the sail leaves the workshop.',
    ],
    terms: ['Table under Workshop', 'Sail under Kite', 'Spar'],
  },
  cloth: {
    titles: ['Ripstop, close', 'Seam study', 'Folded sailcloth', 'Thread and cloth'],
    captions: [
      'Ripstop close up: the stronger thread every few millimetres stops a tear.',
      'Double seam in contrasting thread, seen from a hand away.',
    ],
    terms: ['Sailcloth', 'Detail'],
  },
  rolls: {
    titles: ['Cloth store', 'Rolls by colour', 'Shelf three'],
    captions: ['The cloth store, rolls sorted by colour and weight.'],
    terms: ['Sailcloth', 'Store under Workshop'],
  },
  reels: {
    titles: ['Thread, all colours', 'Reels in a row', 'Thread drawer'],
    captions: ['Bonded thread in the season’s colours.'],
    terms: ['Thread', 'Bench under Workshop'],
  },
  grass: {
    titles: ['Marram', 'Through the grass', 'Wind in the marram'],
    captions: [
      'Seen through the marram, kites out of focus behind.',
      'Wind in the marram grass; a background for text.',
    ],
    terms: ['Dune under Shore', 'Grass', 'Background'],
  },
  pattern: {
    titles: ['Pattern sheet', 'Draft of the diamond', 'Drafting the sails'],
    captions: ['Sail patterns drafted at one to four.'],
    terms: ['Pattern', 'Table under Workshop'],
  },
  sea: {
    titles: ['Weather coming', 'One boat out', 'Swell off Saltreach'],
    captions: [
      'A squall line comes in; flights are held for an hour.',
      'Swell off the Saltreach bar in the last light.',
    ],
    terms: ['Sea', 'Boat', 'Weather'],
  },
  flyer: {
    titles: ['At the winder', 'Portrait of a flyer', 'Holding steady', 'One hand on the line'],
    captions: [
      'A flyer holds the line steady in the last light.',
      'One hand on the line, eyes on the sail.',
    ],
    terms: ['Handler', 'Portrait', 'Sail under Kite'],
  },
};
