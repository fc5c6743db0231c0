/* The economy of loop.mjs by hand: what the engine plays, with the same luck, for one persona and nothing else. */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

typedef struct {
  uint32_t high, low, drawn;
} Luck;

static inline void add(Luck *l, uint32_t whole) {
  uint32_t high = l->high ^ whole;
  high = (high ^ (high >> 16)) * 0x85ebca6bu;
  high = (high ^ (high >> 13)) * 0xc2b2ae35u;
  high ^= high >> 16;
  uint32_t low = (l->low + 0x9e3779b9u) ^ high;
  low = (low ^ (low >> 16)) * 0x21f0aaadu;
  low = (low ^ (low >> 15)) * 0x735a2d97u;
  low ^= low >> 15;
  l->high = high + ((low << 13) | (low >> 19));
  l->low = low;
}
static inline double number(const Luck *l) { return (l->high >> 5) * 0x1p-27 + (l->low >> 6) * 0x1p-53; }
static inline double next(Luck *l) {
  add(l, l->drawn++);
  return number(l);
}
static Luck text(const char *s) {
  Luck l = {0, 0, 0};
  for (size_t i = 0; i < strlen(s); i++) add(&l, (uint32_t)s[i]);
  add(&l, ~(uint32_t)strlen(s));
  return l;
}
static inline void addKey(Luck *l, Luck key) {
  add(l, key.high);
  add(l, key.low);
}
static int poisson(Luck *l, double mean) {
  int n = 0;
  double k = -log1p(-next(l));
  for (; k <= mean; n++) k -= log1p(-next(l));
  return n;
}

enum { SESSIONS = 2, PLAY = 3, EVENT = 4, VISIT = 5, OFFERS = 40 };
static const double DAY = 86400000, MINUTE = 60000, REFILL = 20 * 60000, UP_TO = 6;

typedef struct {
  double shells, pearls, breeze, since, pearlDay, walks, walkDay;
  unsigned char owned[OFFERS];
  Luck luck;
} Player;

static void settle(Player *p, double now) {
  if (p->breeze >= UP_TO) return;
  double intervals = floor((now - p->since) / REFILL);
  if (intervals <= 0) return;
  double room = UP_TO - p->breeze, gain = intervals >= room ? room : intervals;
  p->breeze += gain;
  p->since += intervals * REFILL;
}

int main(int argc, char **argv) {
  int players = atoi(argv[1]), days = atoi(argv[2]);
  double start = atof(argv[3]);
  uint32_t seed = 7;
  Luck racer = text("racer"), winner = text("winners_pearl"), offers[OFFERS];
  double price[OFFERS];
  for (int i = 0; i < OFFERS; i++) {
    char id[32];
    snprintf(id, sizeof id, "sail_%d", i);
    offers[i] = text(id);
    price[i] = 30 + 37 * i;
  }
  Player *all = calloc(players, sizeof *all);
  struct timespec from, to;
  clock_gettime(CLOCK_MONOTONIC, &from);
  long events = 0, purchases = 0;
  double shells = 0;
  for (int n = 0; n < players; n++) {
    Player *p = &all[n];
    add(&p->luck, 0);
    add(&p->luck, seed);
    addKey(&p->luck, racer);
    add(&p->luck, n);
    p->shells = 60;
    p->breeze = 5;
    p->since = start;
    p->pearlDay = p->walkDay = -1;
  }
  for (int day = 0; day < days; day++) {
    double dayStart = start + day * DAY;
    for (int n = 0; n < players; n++) {
      Player *p = &all[n];
      Luck s = p->luck;
      add(&s, SESSIONS);
      add(&s, day);
      s.drawn = 0;
      double now = floor(dayStart + (9 + next(&s) * 12) * 3600000), end = now + 30 * MINUTE;
      settle(p, now);
      Luck turns = p->luck, eventsLuck = p->luck;
      add(&turns, PLAY), add(&turns, day), add(&turns, 0);
      add(&eventsLuck, EVENT), add(&eventsLuck, day), add(&eventsLuck, 0);
      for (uint32_t turn = 0; now < end; turn++) {
        Luck t = turns;
        add(&t, turn);
        t.drawn = 0;
        double total = (p->breeze >= 1 ? 3 : 0) + 2, left = next(&t) * total;
        int races = p->breeze >= 1 && left < 3;
        now += (races ? 4 : 6) * MINUTE;
        if (races) {
          settle(p, now); /* The entry is paid before time is looked at; the order does not matter to the level. */
          if (p->breeze >= UP_TO) p->since = now;
          p->breeze -= 1;
          double pick = next(&t) * 100;
          int place = pick < 18 ? 1 : pick < 40 ? 2 : pick < 60 ? 3 : pick < 80 ? 4 : 5;
          int difficulty = 1 + (int)floor(next(&t) * 3);
          events++;
          p->shells += floor((place == 1 ? 30 : place <= 3 ? 18 : 8) * (1 + 0.25 * (difficulty - 1)) + 1e-9);
          if (place == 1 && p->pearlDay != day) {
            Luck e = eventsLuck;
            add(&e, turn), add(&e, 0), addKey(&e, winner);
            if (number(&e) < 0.2) {
              p->pearls++;
              p->pearlDay = day;
            }
          }
        } else {
          settle(p, now);
          int finds = poisson(&t, 2.5);
          events++;
          if (p->walkDay != day) p->walkDay = day, p->walks = 0;
          if (p->walks < 6) p->walks++, p->shells += 3 * finds;
        }
      }
      Luck visit = p->luck;
      add(&visit, VISIT), add(&visit, day), add(&visit, 0);
      int found[OFFERS], count = 0;
      for (int i = 0; i < OFFERS; i++) {
        if (p->shells < price[i]) continue;
        Luck l = visit;
        add(&l, offers[i].low);
        if (!(number(&l) < 0.08) || p->owned[i] || p->shells - price[i] < 20) continue;
        found[count++] = i;
      }
      /* They are in the order of their prices already. */
      for (int i = 0; i < count; i++) {
        if (p->shells - price[found[i]] < 20) continue;
        p->shells -= price[found[i]];
        p->owned[found[i]] = 1;
        purchases++;
      }
    }
  }
  for (int n = 0; n < players; n++) shells += all[n].shells;
  clock_gettime(CLOCK_MONOTONIC, &to);
  printf("%ld %ld %.0f %.9f\n", events, purchases, shells, (to.tv_sec - from.tv_sec) + (to.tv_nsec - from.tv_nsec) / 1e9);
  return 0;
}
