export interface Command {
  name: string;
  /** As shown; one of `Ctrl`, `Shift`, `Alt` and a key. */
  keys?: string;
  group: "Parts" | "View" | "Desk";
  /** What else people call it, for the search. */
  also?: string;
  /** Why it cannot be done now. */
  blocked?: string;
  run: () => void;
}

/** The command whose keys an event is, if any. */
export function commandFor(commands: Command[], event: KeyboardEvent): Command | undefined {
  const key = event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const pressed = (wanted: string) => {
    const words = wanted.split(" ");
    const main = words.at(-1)!;
    const letter = event.altKey && event.code.startsWith("Key") ? event.code.slice(3) : key;
    if (main !== letter) return false;
    const symbol = /^[^A-Z0-9]$/.test(main);
    return (
      words.includes("Ctrl") === (event.ctrlKey || event.metaKey) &&
      words.includes("Alt") === event.altKey &&
      (symbol || words.includes("Shift") === event.shiftKey)
    );
  };
  return commands.find((command) => command.keys && pressed(command.keys));
}
