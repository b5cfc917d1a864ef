import { Button, type ButtonProps } from "antd";
import { useRef } from "react";

interface ChooseFilesProps extends Omit<ButtonProps, "onClick"> {
  /** The name of the chooser, for tests and screen readers. */
  name: string;
  accept?: string;
  multiple?: boolean;
  choose: (files: File[]) => void;
}

/** A button that opens the browser's file chooser. The same file can be chosen again. */
export function ChooseFiles({ name, accept, multiple, choose, ...button }: ChooseFilesProps) {
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => chooser.current?.click()} />
      <input
        ref={chooser}
        type="file"
        hidden
        accept={accept}
        multiple={multiple}
        data-testid={name}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          if (files.length) choose(files);
          event.target.value = "";
        }}
      />
    </>
  );
}
