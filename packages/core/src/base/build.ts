/** Set when the application is bundled: a hash over the sources of core and kernels. */
declare const ESQUISSE_BUILD: string | undefined;

/**
 * Which build of the core this is. It stands in every key, so what another build worked out is never taken for this one's.
 * Empty when the sources run as they are (tests, command line): nothing is then kept between visits.
 */
export const BUILD = typeof ESQUISSE_BUILD === 'string' ? ESQUISSE_BUILD : '';
