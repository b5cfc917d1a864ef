import { Button, Form, Input } from "antd";
import { useState } from "react";
import { useRemembered } from "../remembered";

/** The sign-off with its reason: both appear on the delivery sheet. The name is remembered. */
export function Accepting({
  accept,
  pending,
  ready = true,
  words = "Sign off and send",
}: {
  accept: (by: string, because: string) => void;
  pending: boolean;
  ready?: boolean;
  words?: string;
}) {
  const [by, setBy] = useRemembered("accepted-by", "");
  const [because, setBecause] = useState("");
  return (
    <Form
      className="accepting"
      aria-label="Sign-off"
      onFinish={() => {
        accept(by, because);
      }}
    >
      <Input
        size="small"
        aria-label="Your name"
        placeholder="Your name"
        value={by}
        maxLength={200}
        onChange={(event) => setBy(event.target.value)}
      />
      <Input
        size="small"
        aria-label="Reason"
        placeholder="Reason"
        value={because}
        maxLength={1000}
        onChange={(event) => setBecause(event.target.value)}
      />
      <Button
        size="small"
        htmlType="submit"
        loading={pending}
        disabled={!ready || !by.trim() || !because.trim()}
      >
        {words}
      </Button>
    </Form>
  );
}
