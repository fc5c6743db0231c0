/** For each rule about what can hardly be meant a fault planted in the demo economy, and where it must be found. */
import type { EconomyDocument, TrackDocument } from '../../src/core/document/index.js';

interface Fault {
  plant: (document: EconomyDocument) => void;
  pointer: string;
  subject: string;
}

/** A track that is planted beside the demo's, or in its place. */
const track =
  (written: Partial<TrackDocument>, id = 'flyer', attribute = 'level') =>
  (document: EconomyDocument): void => {
    document.attributes![attribute] ??= { start: 1 };
    const planted = { name: 'Planted', earns: 'shells', attribute, ...written };
    document.tracks = id === 'flyer' ? { flyer: planted } : { ...document.tracks, [id]: planted };
  };

export const DOUBT_FAULTS: Record<string, Fault> = {
  'track-without-levels': { plant: track({}), pointer: '/tracks/flyer', subject: 'track Planted' },
  'level-gap': {
    plant: track({ levels: { 2: { costs: 10 }, 4: { costs: 20 } } }),
    pointer: '/tracks/flyer',
    subject: 'track Planted',
  },
  'level-free': {
    plant: track({ further: { to: 4, costs: '=10 * (level - 2)' } }),
    pointer: '/tracks/flyer',
    subject: 'track Planted',
  },
  'further-below-table': {
    plant: track({ levels: { 2: { costs: 10 }, 3: { costs: 20 } }, further: { to: 3, costs: 30 } }),
    pointer: '/tracks/flyer/further/to',
    subject: 'track Planted',
  },
  'track-feeds-itself': {
    plant: track({ levels: { 2: { costs: 10, gives: { shells: 20 } }, 3: { costs: 20 } } }),
    pointer: '/tracks/flyer',
    subject: 'track Planted',
  },
  'tracks-share-attribute': {
    plant: track({ levels: { 2: { costs: 10 } } }, 'second'),
    pointer: '/tracks/second/attribute',
    subject: 'track Planted',
  },
  'rule-never-pays': {
    plant: (document) => {
      document.earning!['beach_luck']!.chance = 0;
    },
    pointer: '/earning/beach_luck/chance',
    subject: 'Washed ashore',
  },
  'picks-above-entries': {
    plant: (document) => {
      const table = document.loot!['washed_ashore']!;
      Object.assign(table, { distinct: true, picks: Object.keys(table.entries).length + 1 });
    },
    pointer: '/loot/washed_ashore/picks',
    subject: 'Washed ashore',
  },
  'share-rounds-to-nothing': {
    plant: (document) => {
      document.earning!['chime_thanks']!.share = { side: 0.08 };
    },
    pointer: '/earning/chime_thanks/share',
    subject: 'Thanks of the village',
  },
  'wish-never-sold': {
    plant: (document) => {
      document.items!['dream_kite'] = { ...document.items!['storm_frame']!, name: 'Dream Kite' };
      document.earning!['chime_thanks']!.gives = { dream_kite: 1 };
      delete document.earning!['chime_thanks']!.share;
      document.personas!['racer']!.shops!.wishes = ['dream_kite'];
    },
    pointer: '/personas/racer/shops/wishes/0',
    subject: 'persona Racer',
  },
  'goal-different-things': {
    plant: (document) => {
      document.goals = { planted: { name: 'Planted', counts: 'owned', groups: ['frames'], distinct: true, target: 1 } };
    },
    pointer: '/goals/planted/distinct',
    subject: 'goal Planted',
  },
  'price-fails-for-some': {
    plant: (document) => {
      const offers = document.shops!['pier_stall']!.shelves['care']!.offers;
      offers['wax_1']!.price = { shells: '=20 - 2 * level' };
    },
    pointer: '/shops/pier_stall/shelves/care/offers/wax_1/price',
    subject: 'Glide Wax at Pier Stall',
  },
  'sale-part-rises': {
    plant: (document) => {
      const offers = document.shops!['pier_stall']!.shelves['care']!.offers;
      offers['wax_1']!.price = { shells: 9, ribbons: 3 };
      document.sales = {
        ...document.sales,
        planted: { name: 'Planted', offers: ['wax_1'], price: { shells: 4, ribbons: 5 }, from: '2027-03-01' },
      };
    },
    pointer: '/sales/planted',
    subject: 'Planted',
  },
  'gives-nothing': {
    plant: (document) => {
      document.shops!['pier_stall']!.shelves['care']!.offers['wax_1']!.gives = { glide_wax: '=level - 1' };
    },
    pointer: '/shops/pier_stall/shelves/care/offers/wax_1/gives',
    subject: 'Glide Wax at Pier Stall',
  },
};
