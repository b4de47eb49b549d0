/** How a chosen file is the body of a call. */
export function bytesOf(file: File) {
  return {
    body: file as unknown as string,
    bodySerializer: (f: unknown) => f as BodyInit,
    headers: { 'Content-Type': 'application/octet-stream' },
  }
}
