/** For each rule about slips that everybody makes a fault planted in the demo economy, and where it must be found. */
import type { EconomyDocument } from '../../src/core/document/index.js';

interface Fault {
  plant: (document: EconomyDocument) => void;
  pointer: string;
  subject: string;
}

export const SLIP_FAULTS: Record<string, Fault> = {
  'offer-twice': {
    plant: ({ shops }) => {
      shops!['pier_stall']!.shelves['care']!.offers['oak_reel_2'] = { gives: 'oak_reel', price: { shells: 200 } };
    },
    pointer: '/shops/pier_stall/shelves/care/offers/oak_reel_2',
    subject: 'Oak Reel at Pier Stall',
  },
  'name-taken': {
    plant: ({ items }) => {
      items!['storm_frame']!.name = 'gull frame ';
    },
    pointer: '/items/storm_frame/name',
    subject: 'gull frame ',
  },
  'description-copied': {
    plant: ({ items }) => {
      items!['storm_frame']!.description = items!['gull_frame']!.description;
    },
    pointer: '/items/storm_frame/description',
    subject: 'Storm Frame',
  },
  'start-buys-nearly-all': {
    plant: ({ currencies }) => {
      currencies!['shells']!.start = 20_000;
      currencies!['pearls']!.start = 100;
    },
    pointer: '/currencies/shells/start',
    subject: 'Shells',
  },
  'nothing-within-a-day': {
    plant: ({ currencies, earning, shops }) => {
      for (const currency of Object.values(currencies!)) currency.start = 0;
      earning!['race_prize']!.gives = { shells: 1 };
      earning!['beach_finds']!.gives = { shells: 1 };
      earning!['chime_thanks']!.gives = { shells: 1 };
      const { offers } = shops!['pier_stall']!.shelves['care']!;
      for (const id of ['sea_salt', 'wax_1', 'paper_lantern', 'pennant']) Reflect.deleteProperty(offers, id);
    },
    pointer: '/personas/daydreamer',
    subject: 'Daydreamer',
  },
  'start-out-of-scale': {
    plant: ({ currencies, items }) => {
      currencies!['ribbons']!.start = 5000;
      items!['festival_frame']!.worth = { ribbons: 6 };
    },
    pointer: '/currencies/ribbons/start',
    subject: 'Ribbons',
  },
  'case-contradiction': {
    plant: ({ cases }) => {
      const one = structuredClone(cases!['storm_frame_once']!);
      one.name = 'And twice';
      one.steps![1]!.expect = { verdict: 'allowed' };
      cases!['storm_frame_twice'] = one;
    },
    pointer: '/cases/storm_frame_twice',
    subject: 'case And twice',
  },
};
