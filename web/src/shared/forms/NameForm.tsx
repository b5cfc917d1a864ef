import { useMutation } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";

interface NameFormProps {
  label: string;
  placeholder: string;
  /** The words of the button, by the name typed so far. */
  button: string | ((name: string) => string);
  most?: number;
  primary?: boolean;
  /** Keeps a name; the field is empty afterwards. */
  save: (name: string) => Promise<unknown>;
}

/** A name and the button that keeps something under it. */
export function NameForm({ label, placeholder, button, most = 80, primary = false, save }: NameFormProps) {
  const [typed, setTyped] = useState("");
  const name = typed.trim();
  const keep = useMutation({ mutationFn: save, onSuccess: () => setTyped("") });
  const send = () => name && keep.mutate(name);
  return (
    <div className="name-form">
      <Input
        size="small"
        aria-label={label}
        placeholder={placeholder}
        value={typed}
        maxLength={most}
        onChange={(event) => setTyped(event.target.value)}
        onPressEnter={send}
      />
      <Button
        size="small"
        type={primary ? "primary" : "default"}
        disabled={!name}
        loading={keep.isPending}
        onClick={send}
      >
        {typeof button === "string" ? button : button(name)}
      </Button>
      {keep.error && (
        <p className="field-error" role="alert">
          {keep.error.message}
        </p>
      )}
    </div>
  );
}
