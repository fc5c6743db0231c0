export { element, isXml } from './html.js';
export { benchReport } from './bench.js';
export { runCharts } from './charts.js';
export type { NamedResult } from './charts.js';
export { isNumeric, reportPage } from './page.js';
export type { ReportAbout, ReportBlock } from './page.js';
