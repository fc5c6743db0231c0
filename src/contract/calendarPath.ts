/** Where a calendar program finds the calendar of what is live, by the token that it was given. */
export const calendarPath = (token: string): string => `/calendar/${token}.ics`;
