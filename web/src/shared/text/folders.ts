/** A folder in two words: the one it is in, and itself; the whole path belongs behind the pointer. */
export function folderWords(path: string): string {
  const parts = path.split("/").filter(Boolean);
  return parts.slice(-2).join(" / ") || "/";
}

/** The last part of a path. */
export const folderName = (path: string): string => path.split("/").filter(Boolean).at(-1) ?? "/";
