/** A calendar as iCalendar (RFC 5545), for any calendar program. Every occurrence is an event of its own, in UTC, so that no program needs the zone's rules. */
import ICAL from 'ical.js';
import type { Calendar, CalendarEntry } from './calendar.js';

const utc = (ms: number): ICAL.Time => ICAL.Time.fromJSDate(new Date(ms), true);

/** `stampMs` is when it was made. */
export function calendarIcs({ lanes }: Calendar, title: string, stampMs: number): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Dime Stall//Calendar//EN');
  calendar.addPropertyWithValue('calscale', 'GREGORIAN');
  calendar.addPropertyWithValue('name', title);
  // RFC 7986: how often a program that follows it should look.
  calendar.addPropertyWithValue('refresh-interval', ICAL.Duration.fromSeconds(3600));
  for (const lane of lanes)
    for (const one of lane.entries) calendar.addSubcomponent(eventOf(one, lane.shop, lane.name, stampMs));
  return `${calendar.toString()}\r\n`;
}

function eventOf(one: CalendarEntry, shop: string | null, lane: string, stampMs: number): ICAL.Component {
  const event = new ICAL.Component('vevent');
  const offers = one.offers.map(({ name }) => name).join(', ');
  const summary = {
    open: one.name,
    rotation: `${one.name}: ${offers || 'nothing'}`,
    sale: `Sale: ${one.name}`,
    offer: `On sale: ${one.name}`,
    end: one.name,
    release: one.name,
  }[one.kind];
  event.addPropertyWithValue('uid', `${one.kind}-${shop ?? 'all'}-${one.id}-${one.startMs}@dimestall`);
  event.addPropertyWithValue('dtstamp', utc(stampMs));
  event.addPropertyWithValue('dtstart', utc(one.startMs));
  if (one.endMs > one.startMs) event.addPropertyWithValue('dtend', utc(one.endMs));
  event.addPropertyWithValue('summary', summary);
  event.addPropertyWithValue('location', lane);
  if (one.kind === 'sale') event.addPropertyWithValue('description', offers);
  event.addPropertyWithValue('categories', one.kind);
  event.addPropertyWithValue('transp', 'TRANSPARENT');
  return event;
}
