import { Button } from "antd";
import { useState } from "react";

const OWN = ["localhost", "127.0.0.1", "[::1]"];
const KEPT = "ripe-press in the clear";

/** Says that others on the network can listen, where the page comes from another machine without encryption. */
export function InTheClear() {
  const open = location.protocol === "http:" && !OWN.includes(location.hostname);
  const [seen, setSeen] = useState(() => sessionStorage.getItem(KEPT) === "seen");
  if (!open || seen) return null;
  const close = () => {
    sessionStorage.setItem(KEPT, "seen");
    setSeen(true);
  };
  return (
    <div className="in-the-clear" role="status">
      <span>
        This connection is not encrypted; others on this network can read it. The listening desk needs an
        encrypted one. Start Ripe Press with <code>--tls</code>.
      </span>
      <Button size="small" onClick={close}>
        Close
      </Button>
    </div>
  );
}
