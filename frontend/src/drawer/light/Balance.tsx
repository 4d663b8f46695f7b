import { useState } from "react";
import type { Edit, Lighting } from "../../api/client";
import { balancedLighting } from "../../api/lighting";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { Amount } from "../../ui/Amount";
import { Button } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import * as t from "../../words/texts/drawer/light/Balance";

interface Props {
  id: string;
  lighting: Lighting;
  /** Of the picture's light, as measured. */
  shares: Record<string, number>;
  /** EV by which the product is brighter than the backdrop, as measured. */
  over?: number;
  edit: (change: Edit) => void;
}

/** Sets all levels at once: how strong the main lamp is beside all other light, and how bright the whole is. */
export function Balance({ id, lighting, shares, over, edit }: Props) {
  const light = useDesk((state) => state.light);
  const [ratio, setRatio] = useState(2);
  const [all, setAll] = useState(0);
  const [wished, setWished] = useState<number>();
  const lamps = Object.entries(lighting.lamps).filter(([, lamp]) => lamp.kind !== "card");
  const strongest = [...lamps].sort(([a], [b]) => (shares[b] ?? 0) - (shares[a] ?? 0))[0]?.[0];
  const key = lamps.some(([one]) => one === light) ? light : strongest;
  if (!key) return null;
  const balance = async () => {
    try {
      const next = await balancedLighting({
        lighting,
        shares,
        key,
        ratio,
        all: wished === undefined ? all : 0,
        backdrop: wished === undefined || over === undefined ? 0 : wished + over,
      });
      edit({ kind: "set_lighting", id, lighting: next });
      setAll(0);
      setWished(undefined);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <>
      <Amount
        label={t.toTheRest(lighting.lamps[key]!.name)}
        value={ratio}
        min={0.25}
        max={16}
        step={0.05}
        digits={1}
        unit="x"
        onCommit={setRatio}
      />
      <Amount
        label={t.allLight}
        value={all}
        min={-3}
        max={3}
        step={0.1}
        digits={1}
        unit="EV"
        onCommit={setAll}
      />
      {over !== undefined && (
        <Amount
          label={t.backdropToProduct}
          value={wished ?? -over}
          min={-4}
          max={6}
          step={0.1}
          digits={1}
          unit="EV"
          onCommit={setWished}
        />
      )}
      <Hint text={t.solvesTheLevelsFrom}>
        <Button className="shrink-0 self-start" look="mark" onClick={balance}>
          {t.balanceForMe}
        </Button>
      </Hint>
    </>
  );
}
