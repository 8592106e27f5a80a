import { useRef, type ReactNode } from "react";
import { Button, type ButtonProps } from "react-bootstrap";
import { SOUND_FILES } from "../track/brought";

interface Props extends Pick<ButtonProps, "variant" | "aria-pressed" | "title"> {
  /** What the file is for, as a screen reader says it. */
  label: string;
  onFile: (file: File) => void;
  children: ReactNode;
}

/** A button that asks for a sound file of one's own. */
export function SoundFile({
  label,
  onFile,
  children,
  variant = "outline-secondary",
  ...rest
}: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button size="sm" variant={variant} {...rest} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        aria-label={label}
        accept={SOUND_FILES}
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) onFile(chosen);
          event.target.value = "";
        }}
      />
    </>
  );
}
