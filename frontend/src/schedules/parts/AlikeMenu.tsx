import { DropdownMenu } from "radix-ui";
import type { Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button } from "../../ui/controls";
import { length } from "../../words/length";
import * as t from "../../words/texts/schedules/parts/AlikeMenu";
import { ALIKE, alike, diagonal } from "./alike";

/** Choose more parts, by what they share with those that are chosen. */
export function AlikeMenu({ model, standing }: { model: Model; standing: Standing }) {
  const chosen = useDesk((state) => state.chosen);
  const largest = Math.max(
    ...model.nodes
      .filter((node) => chosen.has(node.uid) && node.definition)
      .map((node) => diagonal(model, node)),
  );
  const item =
    "flex cursor-pointer justify-between gap-4 px-2.5 py-1 outline-none data-highlighted:bg-mark-soft";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look="mark">{t.selectSimilar}</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side="top"
          align="start"
          sideOffset={4}
          className="z-30 min-w-56 rounded-md border border-rule-strong bg-sheet py-1 shadow-lg"
        >
          {ALIKE.map(({ name, words }) => {
            const found = alike(name, model, standing, chosen);
            return (
              <DropdownMenu.Item
                key={name}
                className={item}
                onSelect={() => useDesk.getState().choose(found)}
              >
                {words} <span className="figures text-ink-3">{found.length}</span>
              </DropdownMenu.Item>
            );
          })}
          {Number.isFinite(largest) && (
            <DropdownMenu.Item
              className={item}
              onSelect={() =>
                useDesk
                  .getState()
                  .choose(
                    model.nodes
                      .filter((node) => node.definition && diagonal(model, node) <= largest * 1.0001)
                      .map((node) => node.uid),
                  )
              }
            >
              {t.thisSizeOrSmaller} <span className="figures text-ink-3">{length(largest)}</span>
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
