/** Milliseconds after which letters begin a new word. */
const PAUSE = 1000;

interface Pressed {
  key: string;
  code: string;
  altKey: boolean;
  shiftKey: boolean;
  ctrlKey: boolean;
  metaKey: boolean;
  timeStamp: number;
}

/** Goes to the row of a list that begins with what is typed. With Alt and Shift held
 * down: letters alone are shortcuts, and those with one of the two as well. */
export class TypeAhead {
  private typed = "";
  private last = Number.NEGATIVE_INFINITY;

  /** The row that an event leads to, from the one where the keyboard is; undefined where it is no letter, or where no
   * row begins so. The same letter again leads to the next such row. */
  find(event: Pressed, names: readonly string[], at: number): number | undefined {
    const letter = this.letterOf(event);
    if (!letter) return undefined;
    this.typed = event.timeStamp - this.last > PAUSE ? letter : this.typed + letter;
    this.last = event.timeStamp;
    const again = [...this.typed].every((one) => one === letter);
    const wanted = again ? letter : this.typed;
    // A longer word may still be that of the row one is on.
    const first = again ? at + 1 : Math.max(at, 0);
    for (let step = 0; step < names.length; step++) {
      const row = (first + step) % names.length;
      if (names[row]!.toLowerCase().startsWith(wanted)) return row;
    }
    return undefined;
  }

  private letterOf({ key, code, altKey, shiftKey, ctrlKey, metaKey }: Pressed): string | undefined {
    if (!altKey || !shiftKey || ctrlKey || metaKey) return undefined;
    // Some systems make another sign of a letter with Alt.
    if (code.startsWith("Key")) return code.slice(3).toLowerCase();
    return /^\p{L}$/u.test(key) ? key.toLowerCase() : undefined;
  }
}
