import { Tooltip } from "radix-ui";
import * as t from "../words/texts/ui/Explained";
import { helpOn } from "./help/help";

interface Props {
  label: string;
  topic?: string;
  className?: string;
}

/** The label of a setting. Resting on it says what the setting does, with a picture of little of it and one of much. */
export function Explained({ label, topic, className = "" }: Props) {
  const help = helpOn(topic);
  if (!help) return <span className={className}>{label}</span>;
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>
        <span
          className={`cursor-help underline decoration-rule-strong decoration-dotted underline-offset-4 ${className}`}
        >
          {label}
        </span>
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          side="left"
          sideOffset={14}
          collisionPadding={8}
          className="z-50 flex w-[290px] flex-col gap-2 rounded-md border border-rule-strong bg-sheet p-2.5 text-[12px] shadow-xl"
        >
          <span>{help.words}</span>
          <span className="grid grid-cols-2 gap-2">
            {(["low", "high"] as const).map((end) => (
              <figure key={end} className="m-0">
                <img src={help[end]} width={132} height={99} alt="" className="block w-full" />
                <figcaption className="why">{end === "low" ? t.little : t.much}</figcaption>
              </figure>
            ))}
          </span>
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
