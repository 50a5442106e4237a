/**
 * Inner parts as they are installed: what the service is made of that a bench runs. Their types are those of the sources,
 * which are there before anything is built.
 *
 * @param path in `packages`, such as `core/dist/ical/content.js`
 */
export const installed = async <T>(path: string): Promise<T> => (await import(`../packages/${path}`)) as T;
