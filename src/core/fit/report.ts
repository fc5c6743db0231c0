/** A fit in words, without anything that reads a schema: for the command line and the console. */
import type { DrawDocument } from '../document/index.js';
import type { FitFigure, FitResult, GroupFitted } from './fit.js';

const FIGURES: Readonly<Record<FitFigure['figure'], string>> = {
  'sessions-a-day': 'sessions a day',
  leaving: 'leave, of those who are there, each day',
  minutes: 'minutes a session',
  plays: 'times a session',
  bought: 'bought a session',
};

/** To three digits; nothing where there is nothing. */
const digits = (value: number | undefined): string =>
  value === undefined ? '' : value === 0 ? '0' : String(Number(value.toPrecision(3)));

export interface FigureRow {
  figure: string;
  of: string;
  persona: string;
  heldOut: string;
  interval: string;
  verdict: 'holds' | 'too much' | 'too little';
}

/** What was held out beside the persona. */
export const figureRows = ({ figures }: Pick<GroupFitted, 'figures'>): FigureRow[] =>
  figures.map(({ figure, of, persona, log, holds }) => {
    const isShare = figure === 'leaving';
    const shown = (value: number): string => (isShare ? `${digits(100 * value)} %` : digits(value));
    return {
      figure: FIGURES[figure],
      of: of ?? '',
      persona: shown(persona),
      heldOut: shown(log.value),
      interval: `${isShare ? digits(100 * log.low) : digits(log.low)} to ${shown(log.high)}`,
      verdict: holds ? 'holds' : persona > log.high ? 'too much' : 'too little',
    };
  });

/** Distributions that were fitted; what is always the same is none. */
export const drawRows = ({ fields }: Pick<GroupFitted, 'fields'>) =>
  fields
    .filter(({ draw }) => typeof draw === 'object')
    .map(({ activity, field, mean, deviation, draw }) => ({
      field,
      of: activity,
      mean: digits(mean),
      deviation: digits(deviation),
      draw: drawWords(draw),
    }));

const shares = (weights: Readonly<Record<string, number>>): string => {
  const total = Object.values(weights).reduce((sum, weight) => sum + weight, 0);
  return Object.entries(weights)
    .map(([value, weight]) => `${value}: ${digits((100 * weight) / total)} %`)
    .join(', ');
};

/** From what a field is drawn, in words. */
export function drawWords(draw: DrawDocument): string {
  if (typeof draw !== 'object') return String(draw);
  if ('from' in draw) return `${draw.from} to ${draw.to}, each as often`;
  if ('weights' in draw) return shares(draw.weights);
  if ('chosen' in draw) return `chosen: ${shares(draw.chosen)}`;
  if ('poisson' in draw) return `Poisson, mean ${draw.poisson}`;
  if ('normal' in draw) return `normal, ${draw.normal[0]} ± ${draw.normal[1]}`;
  if ('lognormal' in draw) return `lognormal, half below ${digits(Math.exp(draw.lognormal[0]))}`;
  return `geometric, ${digits(100 * draw.geometric)} % each try`;
}

/** What a fit puts into an economy, by section and id. */
export const fitThings = ({ personas, activities, scenario }: FitResult) => ({
  activities,
  personas,
  scenarios: { [scenario.id]: scenario.scenario },
});

/** "8 of 9 within 95 %", of the players who were held out. */
export const heldWords = ({ figures }: Pick<GroupFitted, 'figures'>): string =>
  `${figures.filter(({ holds }) => holds).length} of ${figures.length} within 95 %`;

/** How well found groups are apart, in words; nothing where they were not looked for. */
export const apartWords = ({ apart }: Pick<FitResult, 'apart'>): string =>
  apart === null ? '' : `, apart by ${apart.toFixed(2)} (from 0.25 on there are groups, from 0.5 on clear ones)`;
