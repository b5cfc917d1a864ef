import { Button } from "antd";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";

interface EmptyProps {
  title: string;
  children: ReactNode;
  /** The page of the next step, and its words. */
  to?: string;
  act?: string;
}

/** A page or a part of one without anything on it yet: why, and the next step. */
export function Empty({ title, children, to, act }: EmptyProps) {
  const go = useNavigate();
  return (
    <div className="empty">
      <p className="empty-title">{title}</p>
      <p>{children}</p>
      {to && (
        <Button type="primary" size="large" onClick={() => go(to)}>
          {act}
        </Button>
      )}
    </div>
  );
}
