import { Select } from "antd";
import { useEffect, useState } from "react";
import { useRemembered } from "../../../shared/remembered";
import { player } from "../../../shared/sound/player";

const USUAL = "";
const offered =
  "AudioContext" in window && "setSinkId" in AudioContext.prototype && "mediaDevices" in navigator;

/** The output device, if this browser lists its devices. */
export function OutputDevice() {
  const [device, setDevice] = useRemembered<string>("output", USUAL);
  const [devices, setDevices] = useState<readonly MediaDeviceInfo[]>([]);
  const [problem, setProblem] = useState("");
  useEffect(() => {
    if (!offered) return;
    const look = () =>
      navigator.mediaDevices
        .enumerateDevices()
        .then((all) => setDevices(all.filter((one) => one.kind === "audiooutput" && one.deviceId)))
        .catch(() => setDevices([]));
    void look();
    navigator.mediaDevices.addEventListener("devicechange", look);
    return () => navigator.mediaDevices.removeEventListener("devicechange", look);
  }, []);
  // One that was unplugged is not forgotten: it is used again once it is back.
  const there = devices.some((one) => one.deviceId === device);
  const used = there ? device : USUAL;
  useEffect(() => {
    player.setOutput(used).then(
      () => setProblem(""),
      () => setProblem("Output unavailable. Using the default output."),
    );
  }, [used]);
  if (devices.length < 2) return null;
  return (
    <Select
      className="output-device"
      aria-label="Output"
      value={used}
      status={problem ? "error" : ""}
      title={problem || "Audio output"}
      onChange={setDevice}
      popupMatchSelectWidth={false}
      options={[
        { value: USUAL, label: "Default output" },
        ...devices
          .filter((one) => one.deviceId !== "default")
          .map((one, at) => ({ value: one.deviceId, label: one.label || `Output ${at + 1}` })),
      ]}
    />
  );
}
