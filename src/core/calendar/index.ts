export { calendarJoin, calendarMake, offerShownIn } from './calendar.js';
export type { Calendar, CalendarEntry, CalendarLane } from './calendar.js';
export { calendarIcs } from './ics.js';
