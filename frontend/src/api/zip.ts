/** Several files as one ZIP without compression (APPNOTE 6.3.10), so that what belongs together is sent together. */
export async function zipped(files: File[], name: string): Promise<File> {
  const parts: BlobPart[] = [];
  const directory: Uint8Array<ArrayBuffer>[] = [];
  let offset = 0;
  for (const file of files) {
    const data = new Uint8Array(await file.arrayBuffer());
    const title = new TextEncoder().encode(file.webkitRelativePath || file.name);
    const sum = crc32(data);
    const local = header(0x04034b50, 30, title, sum, data.length);
    parts.push(local, data);
    const central = header(0x02014b50, 46, title, sum, data.length);
    new DataView(central.buffer).setUint32(42, offset, true);
    directory.push(central);
    offset += local.length + data.length;
  }
  const size = directory.reduce((sum, entry) => sum + entry.length, 0);
  const end = new DataView(new ArrayBuffer(22));
  end.setUint32(0, 0x06054b50, true);
  end.setUint16(8, files.length, true);
  end.setUint16(10, files.length, true);
  end.setUint32(12, size, true);
  end.setUint32(16, offset, true);
  return new File([...parts, ...directory, end.buffer], name);
}

/** A local or central header: they hold the same, the central one four bytes later and with more behind it. */
function header(mark: number, length: number, title: Uint8Array, sum: number, size: number) {
  const bytes = new Uint8Array(length + title.length);
  const view = new DataView(bytes.buffer);
  const at = length === 46 ? 2 : 0;
  view.setUint32(0, mark, true);
  if (at) view.setUint16(4, 20, true);
  view.setUint16(4 + at, 20, true);
  // Names are UTF-8.
  view.setUint16(6 + at, 0x0800, true);
  view.setUint32(14 + at, sum, true);
  view.setUint32(18 + at, size, true);
  view.setUint32(22 + at, size, true);
  view.setUint16(26 + at, title.length, true);
  bytes.set(title, length);
  return bytes;
}

const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

/** ISO 3309, as ZIP and PNG use it. */
export function crc32(data: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of data) c = TABLE[(c ^ byte) & 255]! ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}
