/** For each rule about time and texts a fault planted in the demo economy, and where it must be found. */
import type { EconomyDocument } from '../../src/core/document/index.js';

interface Fault {
  plant: (document: EconomyDocument) => void;
  pointer: string;
  subject: string;
}
const tonight = (document: EconomyDocument) => document.shops!['lantern_wagon']!.shelves['tonight']!;
const hideBut = (document: EconomyDocument, left: number) => {
  for (const offer of Object.values(tonight(document).offers).slice(left)) offer.hidden = true;
};

export const TIME_FAULTS: Record<string, Fault> = {
  'window-never': {
    plant: (document) => {
      document.sales!['wax_weekend']!.runs!['weekends']!.repeats = 'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30';
    },
    pointer: '/sales/wax_weekend/runs/weekends/repeats',
    subject: 'Wax Weekend',
  },
  'window-always': {
    plant: (document) => {
      document.sales!['wax_weekend']!.runs!['weekends']!.lasts = 'P7D';
    },
    pointer: '/sales/wax_weekend/runs',
    subject: 'Wax Weekend',
  },
  'rotation-empty': {
    plant: (document) => hideBut(document, 0),
    pointer: '/shops/lantern_wagon/shelves/tonight/rotation',
    subject: 'Tonight at Lantern Wagon',
  },
  'rotation-short': {
    plant: (document) => hideBut(document, 3),
    pointer: '/shops/lantern_wagon/shelves/tonight/rotation/avoid',
    subject: 'Tonight at Lantern Wagon',
  },
  'rotation-few-selections': {
    plant: (document) => {
      const rotation = tonight(document).rotation!;
      rotation.avoid = 1;
      hideBut(document, 2 * rotation.show);
    },
    pointer: '/shops/lantern_wagon/shelves/tonight/rotation/avoid',
    subject: 'Tonight at Lantern Wagon',
  },
  'rotation-weight': {
    plant: (document) => {
      tonight(document).offers['tide_sail']!.weight = 20;
    },
    pointer: '/shops/lantern_wagon/shelves/tonight/offers/tide_sail/weight',
    subject: 'Tide Sail, Tonight at Lantern Wagon',
  },
  'sale-off-show': {
    plant: (document) => {
      document.sales!['linen_evening']!.offers = ['festival_crate'];
      document.sales!['linen_evening']!.price = { ribbons: 1 };
    },
    pointer: '/sales/linen_evening',
    subject: 'Linen Evening',
  },
  'sale-without-effect': {
    plant: (document) => {
      document.sales!['linen_evening']!.price = { shells: 90 };
    },
    pointer: '/sales/linen_evening',
    subject: 'Linen Evening',
  },
  'local-time-in-doubt': {
    plant: (document) => {
      document.sales!['spring_sails']!.until = '2027-03-28T01:30';
    },
    pointer: '/sales/spring_sails/until',
    subject: 'sales spring_sails',
  },
  'requirement-untold': {
    plant: (document) => {
      Reflect.deleteProperty(document.texts!['en']!, 'offer.storm_frame.requirement');
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/storm_frame/when',
    subject: 'Storm Frame at Pier Stall',
  },
  'missing-translation': {
    plant: (document) => {
      Reflect.deleteProperty(document.texts!['pt']!, 'item.oak_reel.name');
    },
    pointer: '/texts/pt',
    subject: 'texts in pt',
  },
};
