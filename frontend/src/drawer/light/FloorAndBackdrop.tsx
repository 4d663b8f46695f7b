import { Switch } from "radix-ui";
import { keepPicture } from "../../api/appearance";
import type { Edit, Lighting, Standing } from "../../api/client";
import { FLOOR_FINISH } from "../../api/generated/facts";
import { toast } from "../../api/toast";
import { Amount } from "../../ui/Amount";
import { Button, Check, Choice, ColorField } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import * as t from "../../words/texts/drawer/light/FloorAndBackdrop";
import { FloorFields } from "./FloorFields";
import { GroundFields } from "./GroundFields";

interface Props {
  standing: Standing;
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

type Backdrop = Lighting["backdrop"];

const KINDS: [Backdrop["kind"], string][] = [
  ["plain", "plain"],
  ["gradient", "gradient"],
  ["radial", t.radialGradient],
  ["environment", "surroundings"],
  ["photo", "photo"],
];

/** The floor that the product stands on, and what lies behind it. */
export function FloorAndBackdrop({ standing, id, lighting, edit }: Props) {
  const { backdrop, floor_finish } = lighting;
  const commit = (change: Partial<Lighting>) =>
    edit({ kind: "set_lighting", id, lighting: { ...lighting, ...change } });
  const setFloor = (change: Partial<Lighting["floor_finish"]>) =>
    commit({ floor_finish: { ...floor_finish, ...change } });
  const setBackdrop = (change: Partial<Backdrop>) => commit({ backdrop: { ...backdrop, ...change } });
  const isChanged = Object.entries(FLOOR_FINISH).some(
    ([name, value]) => floor_finish[name as "lift"] !== value,
  );
  const photo = async (file: File) => {
    try {
      const { picture } = await keepPicture(file);
      setBackdrop({ kind: "photo", picture });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <>
      <div className="flex items-center justify-between">
        <span className="cap">{t.floorAndBackdrop}</span>
        {isChanged && (
          <Button look="text" onClick={() => commit({ floor_finish: { ...FLOOR_FINISH } })}>
            {t.resetFloor}
          </Button>
        )}
      </div>
      <div className="flex items-center justify-between">
        <label htmlFor="floor">{t.floor}</label>
        <Switch.Root
          id="floor"
          checked={lighting.floor}
          onCheckedChange={(floor) => commit({ floor })}
          className="h-[16px] w-[30px] cursor-pointer rounded-full border border-ink bg-white data-[state=checked]:bg-ink"
        >
          <Switch.Thumb className="block h-[10px] w-[10px] translate-x-[2px] rounded-full bg-ink data-[state=checked]:translate-x-[16px] data-[state=checked]:bg-white" />
        </Switch.Root>
      </div>
      {lighting.floor && <FloorFields {...{ standing, id, lighting, setFloor }} />}
      <Choice
        label={t.backdrop}
        title={t.kindOfBackdrop}
        value={backdrop.kind}
        choices={KINDS}
        onChange={(kind) => setBackdrop({ kind: kind as Backdrop["kind"] })}
      />
      <ColorField
        label={
          backdrop.kind === "plain" ? t.colour : backdrop.kind === "radial" ? t.middleFloor : t.bottomAndFloor
        }
        value={backdrop.bottom}
        onCommit={(bottom) => setBackdrop({ bottom })}
      />
      {(backdrop.kind === "gradient" || backdrop.kind === "radial") && (
        <ColorField
          label={backdrop.kind === "radial" ? t.border : t.top}
          value={backdrop.top}
          onCommit={(top) => setBackdrop({ top })}
        />
      )}
      {(backdrop.kind === "environment" || (backdrop.kind === "photo" && backdrop.picture)) && (
        <Amount
          label={t.level}
          value={backdrop.level}
          min={-6}
          max={6}
          step={0.05}
          digits={1}
          unit="EV"
          onCommit={(level) => setBackdrop({ level })}
        />
      )}
      {backdrop.kind === "environment" && (
        <Amount
          label={t.blur}
          value={backdrop.blur}
          min={0}
          max={1}
          step={0.01}
          onCommit={(blur) => setBackdrop({ blur })}
        />
      )}
      {backdrop.kind === "environment" && <GroundFields {...{ backdrop, setBackdrop }} />}
      {backdrop.kind === "photo" && (
        <>
          <FileButton label={t.photoFile} accept=".png,.jpg,.jpeg,.tif,.tiff,.webp,.exr" onFile={photo}>
            {backdrop.picture ? t.anotherPhoto : t.selectAPhoto}
          </FileButton>
          {backdrop.picture && (
            <>
              <Choice
                label={t.placement}
                value={backdrop.fit}
                choices={[
                  ["fill", t.fillThePicture],
                  ["fit", t.wholePhoto],
                ]}
                onChange={(fit) => setBackdrop({ fit: fit as Backdrop["fit"] })}
              />
              <Amount
                label={t.scale}
                value={backdrop.scale}
                min={0.1}
                max={5}
                step={0.01}
                onCommit={(scale) => setBackdrop({ scale })}
              />
              {(["across", "down"] as const).map((way, k) => (
                <Amount
                  key={way}
                  label={t.shift(way)}
                  value={backdrop.shift[k]!}
                  min={-1}
                  max={1}
                  step={0.005}
                  onCommit={(value) =>
                    setBackdrop({
                      shift: backdrop.shift.map((v, j) => (j === k ? value : v)) as [number, number],
                    })
                  }
                />
              ))}
            </>
          )}
        </>
      )}
      <Check
        label={t.transparentStills}
        checked={backdrop.transparent}
        onChange={(checked) => setBackdrop({ transparent: checked })}
      />
      {backdrop.transparent && <p className="why">{t.stillsArePngFiles}</p>}
      {floor_finish.kind === "plain" && <p className="why">{t.aPlainFloorTakes}</p>}
    </>
  );
}
