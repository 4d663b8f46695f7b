import { describe, expect, it } from "vitest";
import { crc32, zipped } from "./zip";

describe("files that belong together", () => {
  it("have the checksum that the standard tells", () => {
    // The check value of CRC-32 (ISO-HDLC) in the catalogue of parametrised CRC algorithms.
    expect(crc32(new TextEncoder().encode("123456789"))).toBe(0xcbf43926);
  });
  it("are laid out as local headers, directory and end record", async () => {
    const files = [new File(["abc"], "a.obj"), new File(["defgh"], "ä.mtl")];
    const made = new Uint8Array(await (await zipped(files, "x.zip")).arrayBuffer());
    const view = new DataView(made.buffer);
    const end = made.length - 22;
    expect(view.getUint32(end, true)).toBe(0x06054b50);
    expect(view.getUint16(end + 10, true)).toBe(2);
    const directory = view.getUint32(end + 16, true);
    expect(directory + view.getUint32(end + 12, true)).toBe(end);
    const second = directory + 46 + 5;
    expect(view.getUint32(second, true)).toBe(0x02014b50);
    const local = view.getUint32(second + 42, true);
    expect(view.getUint32(local, true)).toBe(0x04034b50);
    const name = view.getUint16(local + 26, true);
    expect(new TextDecoder().decode(made.slice(local + 30, local + 30 + name))).toBe("ä.mtl");
    expect(new TextDecoder().decode(made.slice(local + 30 + name, directory))).toBe("defgh");
  });
});
