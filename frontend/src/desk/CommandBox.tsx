import { Command as Box } from "cmdk";
import { Dialog } from "radix-ui";
import { memo } from "react";
import { Modal } from "../ui/Modal";
import type { Command } from "./commands";

interface Props {
  commands: Command[];
  open: boolean;
  onOpen: (open: boolean) => void;
}

/** Finds any action by a few letters. */
export const CommandBox = memo(function CommandBox({ commands, open, onOpen }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[14%] left-1/2 z-50 w-[440px] -translate-x-1/2 rounded-md border border-rule-strong bg-sheet shadow-xl"
        >
          <Dialog.Title className="sr-only">Find any action</Dialog.Title>
          <Box loop>
            <Box.Input
              autoFocus
              placeholder="What do you want to do?"
              className="h-10 w-full border-b border-rule bg-transparent px-3.5 outline-none"
            />
            <Box.List className="max-h-[320px] overflow-y-auto p-1.5">
              <Box.Empty className="p-3 text-ink-2">Nothing is called like that.</Box.Empty>
              {commands.map((command) => (
                <Box.Item
                  key={command.name}
                  className="flex cursor-pointer justify-between rounded-sm px-2 py-1.5 data-[selected=true]:bg-mark-soft"
                  onSelect={() => {
                    onOpen(false);
                    command.run();
                  }}
                >
                  {command.name}
                  <span className="figures text-ink-2">{command.keys}</span>
                </Box.Item>
              ))}
            </Box.List>
          </Box>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
});

export const KeysDialog = memo(function KeysDialog({ commands, open, onOpen }: Props) {
  const groups = ["Parts", "View", "Desk"] as const;
  return (
    <Modal title="Keys" open={open} onOpen={onOpen} width={760}>
      <div className="grid grid-cols-3 gap-6">
        {groups.map((group) => (
          <section key={group}>
            <h3 className="cap border-b border-rule pb-1.5">{group}</h3>
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
      <p className="why">
        In the picture: drag turns, right drag or Shift drag moves, the wheel zooms at the pointer, a click
        chooses, Ctrl click adds, a double click goes close. In the schedule: Shift click chooses a run of
        rows.
      </p>
    </Modal>
  );
});
