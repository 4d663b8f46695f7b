import { keepPicture } from "../api/appearance";
import type { Decal, Edit, Model, Standing } from "../api/client";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Amount, Button, Hint, NumberField } from "../ui/controls";
import { FileButton } from "../ui/FileButton";
import { NameField } from "../ui/NameField";

interface Props {
  model: Model;
  standing: Standing;
  uids: string[];
  edit: (change: Edit) => void;
}

/** Decals on what is chosen, and another from a picture file. */
export function Decals({ model, standing, uids, edit }: Props) {
  const mine = new Set(uids);
  const decals = Object.entries(standing.scene.decals).filter(([, decal]) => mine.has(decal.part));
  const take = async (file: File) => {
    try {
      const { picture, width, height } = await keepPicture(file);
      const name = file.name.replace(/\.[^.]*$/, "") || "Decal";
      useDesk.setState({ pointing: "decal", decalInHand: { name, picture, aspect: width / height } });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <section aria-label="Decals" className="flex flex-col gap-2">
      <div className="flex items-center justify-between">
        <span className="cap">Decals</span>
        <FileButton label="Decal file" accept=".png,.jpg,.jpeg,.tif,.tiff,.webp" onFile={take}>
          Add a decal…
        </FileButton>
      </div>
      {decals.length === 0 && (
        <p className="why">
          A label or logo as a picture, best with a transparent background: select its file, then click where
          it shall lie.
        </p>
      )}
      {decals.map(([id, decal]) => (
        <OneDecal key={id} {...{ id, decal, model, standing, edit }} />
      ))}
    </section>
  );
}

/** All decals of the review; those whose part is gone wait here. */
export function AllDecals({ model, standing, edit }: Omit<Props, "uids">) {
  const decals = Object.entries(standing.scene.decals);
  const choose = useDesk((state) => state.choose);
  if (decals.length === 0) return null;
  const nameOf = (uid: string) => model.nodes.find((node) => node.uid === uid)?.name;
  return (
    <section aria-label="All decals" className="flex flex-col gap-1">
      <span className="cap">Decals, {decals.length}</span>
      {decals.map(([id, decal]) => {
        const part = nameOf(decal.part);
        return (
          <div key={id} className="flex items-center gap-1.5">
            <span className="min-w-0 flex-1 truncate">
              {decal.name} <span className="why">{part ? `on ${part}` : "waits: its part is gone"}</span>
            </span>
            {part ? (
              <Button onClick={() => choose([decal.part])}>Show</Button>
            ) : (
              <Button
                onClick={() =>
                  useDesk.setState({
                    pointing: "decal",
                    decalInHand: {
                      name: decal.name,
                      picture: decal.picture,
                      aspect: decal.width / decal.height,
                      id,
                    },
                  })
                }
              >
                Put on again…
              </Button>
            )}
            <Button onClick={() => edit({ kind: "set_decals", decals: { [id]: null } })}>Remove</Button>
          </div>
        );
      })}
    </section>
  );
}

function OneDecal({ id, decal, model, standing, edit }: Omit<Props, "uids"> & { id: string; decal: Decal }) {
  const set = (change: Partial<Decal>) =>
    edit({ kind: "set_decals", decals: { [id]: { ...decal, ...change } } });
  const aspect = decal.width / decal.height;
  const resize = (width: number) => {
    const wide = Math.min(1e4, Math.max(0.1, width));
    set({ width: wide, height: Math.max(0.1, wide / aspect) });
  };
  const shift = (right: number, up: number) => {
    const turn = (decal.turn * Math.PI) / 180;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const [across, along] = [right * c - up * s, right * s + up * c];
    const center = decal.center.map((v, k) => v + decal.right[k]! * across + decal.up[k]! * along);
    set({ center: center as Decal["center"] });
  };
  const again = () =>
    useDesk.setState({
      pointing: "decal",
      decalInHand: { name: decal.name, picture: decal.picture, aspect, id },
    });
  const definition = model.nodes.find((node) => node.uid === decal.part)?.definition;
  const same = model.nodes.filter(
    (node) =>
      definition &&
      node.definition === definition &&
      node.uid !== decal.part &&
      !Object.values(standing.scene.decals).some(
        (one) =>
          one.part === node.uid && one.picture === decal.picture && `${one.center}` === `${decal.center}`,
      ),
  );
  const spread = () => {
    const made = same.map((node) => [
      `decal-${crypto.randomUUID().slice(0, 8)}`,
      { ...decal, part: node.uid },
    ]);
    edit({ kind: "set_decals", decals: Object.fromEntries(made) });
  };
  return (
    <div className="flex flex-col gap-[7px] border-t border-rule pt-2">
      <div className="flex items-center gap-1.5">
        <input
          type="checkbox"
          aria-label={`Show ${decal.name}`}
          checked={decal.on}
          onChange={(event) => set({ on: event.target.checked })}
        />
        <NameField
          label="Name of the decal"
          className="h-7 min-w-0 flex-1 rounded-md border border-transparent bg-transparent font-semibold hover:border-rule-strong focus:border-rule-strong focus:bg-white focus:px-1.5"
          value={decal.name}
          onCommit={(name) => set({ name })}
        />
        <Hint text="Then click another spot; its size stays">
          <Button onClick={again}>Move…</Button>
        </Hint>
        <Button onClick={() => edit({ kind: "set_decals", decals: { [id]: null } })}>Remove</Button>
      </div>
      <Row label="Width">
        <NumberField label="Width of the decal" value={decal.width} digits={1} unit="mm" onCommit={resize} />
      </Row>
      <Row label="Height">
        <NumberField
          label="Height of the decal"
          value={decal.height}
          digits={1}
          unit="mm"
          onCommit={(height) => resize(height * aspect)}
        />
      </Row>
      <Row label="Shift">
        <span className="flex gap-1">
          {(
            [
              ["left", "←", -1, 0],
              ["right", "→", 1, 0],
              ["up", "↑", 0, 1],
              ["down", "↓", 0, -1],
            ] as const
          ).map(([way, sign, right, up]) => (
            <Hint key={way} text={`1 mm ${way}; 0.1 with Shift, 10 with Ctrl`}>
              <Button
                aria-label={`Shift the decal ${way}`}
                onClick={(event) => {
                  const step = event.shiftKey ? 0.1 : event.ctrlKey || event.metaKey ? 10 : 1;
                  shift(right * step, up * step);
                }}
              >
                {sign}
              </Button>
            </Hint>
          ))}
        </span>
      </Row>
      <Amount
        label="Turn"
        value={decal.turn}
        min={-180}
        max={180}
        step={1}
        digits={0}
        unit="°"
        onCommit={(turn) => set({ turn })}
      />
      <Amount
        label="Opacity"
        value={decal.opacity}
        min={0}
        max={1}
        step={0.01}
        onCommit={(opacity) => set({ opacity })}
      />
      <Amount
        label="Depth"
        value={decal.depth}
        min={0.1}
        max={50}
        step={0.1}
        digits={1}
        unit="mm"
        onCommit={(depth) => set({ depth })}
      />
      <div className="flex items-center justify-between">
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={decal.mirrored}
            onChange={(event) => set({ mirrored: event.target.checked })}
          />
          Mirrored
        </label>
        {same.length > 0 && (
          <Button look="text" onClick={spread}>
            Copy to {same.length === 1 ? "the same part" : `all ${same.length} same parts`}
          </Button>
        )}
      </div>
    </div>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="flex items-center justify-between">
      <span>{label}</span>
      <span className="flex min-w-[100px] justify-end">{children}</span>
    </div>
  );
}
