/** Files that were dropped on the page, those of dropped folders with them. */

/** Whether a drop has a folder among its files. */
export function hasFolder(data: DataTransfer | null): boolean {
  return [...(data?.items ?? [])].some((item) => item.kind === "file" && item.webkitGetAsEntry?.()?.isDirectory);
}

/** All files of a drop: its own, and those of its folders and all folders in them, hidden ones left out. */
export async function filesOf(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((item) => (item.kind === "file" ? item.webkitGetAsEntry?.() : null));
  // Asked for before anything is waited for: afterwards a drop tells nothing any more.
  const plain = [...data.files];
  if (!entries.some((entry) => entry?.isDirectory)) return plain;
  const found = await Promise.all(entries.map((entry) => (entry ? filesIn(entry) : [])));
  return found.flat();
}

async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  if (entry.name.startsWith(".")) return [];
  if (entry.isFile) return [await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail))];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const out: File[] = [];
  // A folder is told in parts, until one is empty.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (!some.length) return out;
    for (const one of some) out.push(...(await filesIn(one)));
  }
}
