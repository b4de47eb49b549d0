/** The path below which people reach the service, such as /reports; '' for none. */
export const below = document.querySelector<HTMLMetaElement>('meta[name=below]')?.content ?? ''

/** An address of the service, by its path. */
export const at = (path: string): string => below + path
