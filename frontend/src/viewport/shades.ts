import type { Appearance, OpenPBR, Shaded, Standing } from "../api/client";

interface Wish {
  params: OpenPBR;
  values: string;
}

/** What the shaded picture shows of appearances: as the standing says, or the core when values are only tried. */
export class Shades {
  /** By appearance: what was shown last, and of which values. */
  private readonly last = new Map<string, { values: string; shown: Shaded }>();
  private wishes = new Map<string, Wish>();
  /** Those that the core is asked for now. */
  private underway = new Map<string, Wish>();
  private asking = false;

  constructor(
    private readonly ask: (params: OpenPBR[]) => Promise<Shaded[]>,
    private readonly answered: () => void,
  ) {}

  /** What is shown of an appearance. While the core is asked, what was shown before. */
  of(appearance: Appearance, standing: Standing): Shaded {
    const { id, params } = appearance;
    const said = standing.shaded[id];
    const last = this.last.get(id);
    if (said && standing.appearances[id] === appearance) {
      if (last?.shown !== said) this.last.set(id, { values: JSON.stringify(params), shown: said });
      this.wishes.delete(id);
      return said;
    }
    const values = JSON.stringify(params);
    if (last?.values === values || this.underway.get(id)?.values === values) this.wishes.delete(id);
    else {
      this.wishes.set(id, { params, values });
      this.work().catch(() => undefined);
    }
    return last?.shown ?? said!;
  }

  /** Asks for all that is wished, one request at a time: of a dragged slider the values between are passed over. */
  private async work() {
    if (this.asking) return;
    this.asking = true;
    try {
      // What is wished in one go is asked in one go.
      await Promise.resolve();
      while (this.wishes.size > 0) {
        this.underway = this.wishes;
        this.wishes = new Map();
        const asked = [...this.underway];
        const found = await this.ask(asked.map(([, { params }]) => params));
        asked.forEach(([id, { values }], k) => {
          this.last.set(id, { values, shown: found[k]! });
        });
        this.answered();
      }
    } finally {
      this.underway = new Map();
      this.asking = false;
    }
  }
}
