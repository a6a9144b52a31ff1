/** A download has begun to be read from its address within this, ms. */
const BEGUN_WITHIN_MS = 60_000;

/** Hands a file to the person's downloads. */
export function saveFile(name: string, content: Uint8Array | string, type: string): void {
  const url = URL.createObjectURL(new Blob([content as BlobPart], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), BEGUN_WITHIN_MS);
}
