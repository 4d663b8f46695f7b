import type { Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { countParts } from "../../state/rows";
import { Button } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import * as t from "../../words/texts/schedules/appearances/FirstCoat";
import { untouchedOf } from "./uses";

/** Offers a proposed appearance for every part that has none, from what the file says of it. */
export function FirstCoat() {
  return (
    <Hint text={t.proposesAppearancesFromMaterials}>
      <Button look="mark" onClick={() => useDesk.setState({ firstCoat: true })}>
        {t.firstCoat}
      </Button>
    </Hint>
  );
}

/** Says that most parts were given nothing yet, where that is so. */
export function FirstCoatNotice({ standing }: { standing: Standing }) {
  const all = Object.values(standing.worn).length;
  const bare = untouchedOf(standing).length;
  if (bare === 0 || bare * 2 < all) return null;
  return (
    <p
      data-guide="first coat"
      className="flex items-center gap-2 border-b border-rule bg-mark-soft px-3 py-1.5"
    >
      <span className="flex-1">{t.withNoAppearanceYet(countParts(bare))}</span>
      <FirstCoat />
    </p>
  );
}
