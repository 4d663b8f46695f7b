import { Hint } from "./Hint";
import { helpOn } from "./help/help";

interface Props {
  label: string;
  topic?: string;
  className?: string;
}

/** The label of a setting. Resting on it says what the setting does, with a picture of little of it and one of much. */
export function Explained({ label, topic, className = "" }: Props) {
  if (!helpOn(topic)) return <span className={className}>{label}</span>;
  return (
    <Hint topic={topic}>
      <span
        className={`cursor-help underline decoration-rule-strong decoration-dotted underline-offset-4 ${className}`}
      >
        {label}
      </span>
    </Hint>
  );
}
