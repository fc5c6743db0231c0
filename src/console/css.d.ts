declare module '*.css';

/** Of the package, put in by the build. */
declare const VERSION: string;
