import { useRef, useState } from "react";
import { leaveField } from "../../session/keys_back";
import { Field } from "./controls";

/** A field that commits on Enter or when left, and goes back to what it was on Escape. */
export function TypedField(props: {
  label: string;
  text: string;
  disabled?: boolean;
  onCommit: (typed: string) => boolean | Promise<boolean>;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const dropped = useRef(false);
  const commit = (): void => {
    if (!dropped.current && typed !== null && typed.trim() !== "" && typed !== props.text) void props.onCommit(typed);
    setTyped(null);
  };
  return (
    <Field
      aria-label={props.label}
      value={typed ?? props.text}
      disabled={props.disabled}
      onChange={(event) => setTyped(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={commit}
      onKeyDown={(event) => {
        dropped.current = event.key === "Escape";
        // Where the field is left, the leaving commits.
        const done = event.key === "Enter" || event.key === "Escape";
        if (done && !leaveField(event.currentTarget)) commit();
        dropped.current = false;
      }}
    />
  );
}
