import { Command as Box } from "cmdk";
import { Dialog } from "radix-ui";
import { memo, useMemo, useRef, useState } from "react";
import type { Edit, Model, Standing } from "../api/client";
import { useShelf } from "../api/queries";
import { useDesk } from "../state/deskStore";
import { givingEdit } from "../state/giving";
import { countParts } from "../state/rows";
import { Button } from "../ui/controls";
import { Modal } from "../ui/Modal";
import * as t from "../words/texts/desk/CommandBox";
import type { Command } from "./keys";
import { blockedSetting, goToSetting, SETTINGS } from "./settings";
import { showGuide } from "./showGuide";

interface Props {
  commands: Command[];
  model: Model;
  standing: Standing;
  edit: (change: Edit) => void;
  /** What was typed before the box was there. */
  typedAhead: string;
  onClose: () => void;
}

const USED = "usual-lamp-used-commands";
/** Where a setting stands. */
const WHERE = {
  model: "model",
  parts: t.selectedParts,
  lights: "lights",
  shots: "shot",
  lamp: t.selectedLamp,
  decal: t.selectedDecal,
};
/** Parts and samples that are listed for what was typed. */
const MOST = 8;

function usedCounts(): Record<string, number> {
  try {
    return JSON.parse(localStorage.getItem(USED) ?? "{}");
  } catch {
    return {};
  }
}

function noteUse(name: string) {
  const counts = usedCounts();
  localStorage.setItem(USED, JSON.stringify({ ...counts, [name]: (counts[name] ?? 0) + 1 }));
}

/** Finds any action, setting, sheet, shot, part and sample by a few letters, or by another word for it. */
export const CommandBox = memo(function CommandBox(props: Props) {
  const { commands, model, standing, edit, typedAhead, onClose } = props;
  const [typed, setTyped] = useState(typedAhead);
  const chosen = useDesk((state) => state.chosen);
  const light = useDesk((state) => state.light);
  const decal = useDesk((state) => state.decal);
  const shelf = useShelf().data;
  const counts = useMemo(usedCounts, []);
  const ranked = useMemo(
    () => [...commands].sort((a, b) => (counts[b.name] ?? 0) - (counts[a.name] ?? 0)),
    [commands, counts],
  );
  const words = typed.trim().toLowerCase();
  const parts = useMemo(() => {
    if (words.length < 2) return [];
    const named = new Map<string, string[]>();
    for (const node of model.nodes)
      if (node.definition && node.name.toLowerCase().includes(words))
        named.set(node.name, [...(named.get(node.name) ?? []), node.uid]);
    return [...named].slice(0, MOST);
  }, [model, words]);
  const samples =
    words.length < 2
      ? []
      : (shelf?.samples ?? [])
          .filter((one) =>
            `${one.appearance.name} ${one.appearance.family} ${one.words}`.toLowerCase().includes(words),
          )
          .slice(0, MOST);
  const uids = [...chosen].filter((uid) => standing.worn[uid]);
  const selected = {
    parts: uids.length,
    lamp: Object.values(standing.scene.lightings).some((lighting) => lighting.lamps[light]),
    decal: decal !== undefined && chosen.has(standing.scene.decals[decal]?.part ?? ""),
  };
  const acted = useRef(false);
  const run = (act: () => void) => {
    acted.current = true;
    onClose();
    act();
  };
  const row =
    "flex cursor-pointer justify-between gap-3 rounded-sm px-2 py-1.5 data-[selected=true]:bg-mark-soft data-[disabled=true]:cursor-default data-[disabled=true]:text-ink-3";
  return (
    <Dialog.Root open onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          // What was done may have taken the keyboard somewhere already.
          onCloseAutoFocus={(event) => acted.current && event.preventDefault()}
          className="fixed top-[14%] left-1/2 z-50 w-[480px] -translate-x-1/2 rounded-md border border-rule-strong bg-sheet shadow-xl"
        >
          <Dialog.Title className="sr-only">{t.findAnyAction}</Dialog.Title>
          <Box loop>
            <Box.Input
              autoFocus
              placeholder={t.findAnActionA}
              className="h-10 w-full border-b border-rule bg-transparent px-3.5 outline-none"
              value={typed}
              onValueChange={setTyped}
            />
            <Box.List className="max-h-[360px] overflow-y-auto p-1.5">
              <Box.Empty className="p-3 text-ink-2">{t.noMatchingActionSetting}</Box.Empty>
              {ranked.map((command) => (
                <Box.Item
                  key={command.name}
                  value={command.name}
                  keywords={command.also?.split(" ")}
                  disabled={command.blocked !== undefined}
                  className={row}
                  onSelect={() =>
                    run(() => {
                      noteUse(command.name);
                      command.run();
                    })
                  }
                >
                  {command.name}
                  {command.blocked ? (
                    <span className="why">{command.blocked}</span>
                  ) : (
                    <span className="figures text-ink-2">{command.keys}</span>
                  )}
                </Box.Item>
              ))}
              {SETTINGS.map((setting) => {
                const blocked = blockedSetting(setting, selected);
                return (
                  <Box.Item
                    key={`setting ${setting.name}`}
                    value={`setting ${setting.name}`}
                    keywords={setting.also.split(" ")}
                    disabled={blocked !== undefined}
                    className={row}
                    onSelect={() => run(() => goToSetting(setting))}
                  >
                    {setting.name}
                    <span className="why">{blocked ?? WHERE[setting.room]}</span>
                  </Box.Item>
                );
              })}
              {parts.map(([name, same]) => (
                <Box.Item
                  key={`part ${name}`}
                  value={`part ${name}`}
                  className={row}
                  onSelect={() =>
                    run(() => {
                      useDesk.getState().choose(same);
                      useDesk.setState({ sheet: "parts" });
                    })
                  }
                >
                  {t.select(name)}
                  <span className="why">{countParts(same.length)}</span>
                </Box.Item>
              ))}
              {samples.map(({ appearance }) => (
                <Box.Item
                  key={`sample ${appearance.id}`}
                  value={`sample ${appearance.name} ${appearance.family}`}
                  disabled={uids.length === 0}
                  className={row}
                  onSelect={() =>
                    run(() => edit(givingEdit(appearance, "parts", { model, standing, uids, faces: [] })))
                  }
                >
                  {t.apply(appearance.name)}
                  <span className="why">
                    {uids.length === 0 ? t.selectPartsFirst : t.to(countParts(uids.length))}
                  </span>
                </Box.Item>
              ))}
            </Box.List>
          </Box>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
});

interface KeysProps {
  commands: Command[];
  open: boolean;
  onOpen: (open: boolean) => void;
}

const GROUPS = [
  ["Parts", t.parts],
  ["View", t.view],
  ["Desk", t.desk],
] as const;

export const KeysDialog = memo(function KeysDialog({ commands, open, onOpen }: KeysProps) {
  return (
    <Modal title={t.keyboardShortcuts} open={open} onOpen={onOpen} width={760}>
      <div className="grid grid-cols-3 gap-6">
        {GROUPS.map(([group, words]) => (
          <section key={group}>
            <h3 className="cap border-b border-rule pb-1.5">{words}</h3>
            {commands
              .filter((command) => command.group === group && command.keys)
              .map((command) => (
                <div key={command.name} className="flex justify-between gap-2 border-b border-row py-1">
                  <span>{command.name}</span>
                  <span className="figures whitespace-nowrap text-ink-2">{command.keys}</span>
                </div>
              ))}
          </section>
        ))}
      </div>
      <div className="flex items-center gap-3">
        <Button
          onClick={() => {
            onOpen(false);
            showGuide();
          }}
        >
          {t.showTheGuidedStart}
        </Button>
        <span className="why">{t.itLeadsFromThe}</span>
      </div>
      <p className="why">{t.inThePictureDrag}</p>
    </Modal>
  );
});
