/** What the audit works out that play pays, against what made-up players earn with the same rules. */
import { demoDocument } from '../../../tests/support/economy.js';
import { scenarioResolve, simulateEngine } from '../simulation/index.js';
import { playPay } from './play.js';

test("pay by minute of the demo's activities is what the engine's players earn", () => {
  const document = demoDocument();
  // The audit leaves out what cannot be repeated without end: here everything can.
  for (const rule of Object.values(document.earning!)) {
    delete rule.limits;
    delete rule.cooldown;
  }
  delete document.currencies!['shells']!.cap;
  const setup = scenarioResolve(document, 'first_month', { players: 200, days: 10 });
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const { activities, currencies } = simulateEngine(setup.value);
  const audited = playPay(setup.value.economy);
  expect(activities.activity.length).toBeGreaterThan(6);
  for (const [row, activity] of activities.activity.entries()) {
    const currency = currencies[activities.currency[row]!]!.id;
    const pay = audited.usual[activity]![currency]!;
    // Where the audit cannot work it out it tries: 2000 plays at least.
    const deviation = (activities.high[row]! - activities.low[row]!) / 2 / 1.96;
    const both = deviation * Math.sqrt(1 + activities.plays[row]! / 2000);
    expect([activity, currency, Math.abs(activities.perMinute[row]! - pay) <= 4 * both]).toEqual([
      activity,
      currency,
      true,
    ]);
  }
});
