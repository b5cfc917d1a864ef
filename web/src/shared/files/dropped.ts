/** The files that were dropped, those inside dropped folders too, in the order of their names. */
export async function filesDropped(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (!entries.length) return [...transfer.files];
  const found = await Promise.all(entries.map(filesIn));
  return found.flat().sort((one, other) => NAMES.compare(one.name, other.name));
}

const NAMES = new Intl.Collator("en", { numeric: true });

async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) {
    const file = entry as FileSystemFileEntry;
    return [await new Promise<File>((resolve, reject) => file.file(resolve, reject))];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: File[] = [];
  for (;;) {
    // A folder is listed a hundred entries at a time.
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (!some.length) return found;
    // Hidden system files are not mixes: every file on some sticks has a "._" one with an audio
    // extension.
    const shown = some.filter((one) => !one.name.startsWith("."));
    found.push(...(await Promise.all(shown.map(filesIn))).flat());
  }
}
