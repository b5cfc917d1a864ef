import { theme as antTheme, type ThemeConfig } from "antd";
import { useEffect, useState } from "react";

export type Mode = "light" | "dark";

const FACE = '"Atkinson Hyperlegible Next Variable", system-ui, sans-serif';

const LIGHT = {
  colorPrimary: "#74305A",
  // Progress bars: otherwise the library's own blue.
  colorInfo: "#74305A",
  colorLink: "#74305A",
  colorTextPlaceholder: "#6C625C",
  colorBgBase: "#FFFCF5",
  colorBgContainer: "#FFFCF5",
  colorBgElevated: "#FFFCF5",
  colorBgLayout: "#F6F0E4",
  colorTextBase: "#2B2530",
  colorBorder: "#CDBFA8",
  colorError: "#A33E2B",
  colorSuccess: "#4B7342",
  colorWarning: "#A87413",
};

const DARK = {
  colorPrimary: "#C886AE",
  colorInfo: "#C886AE",
  colorLink: "#DDA0C4",
  colorTextPlaceholder: "#B5A9A0",
  colorBgBase: "#2A242B",
  colorBgContainer: "#2A242B",
  colorBgElevated: "#332C34",
  colorBgLayout: "#1F1A20",
  colorTextBase: "#F1E9DC",
  colorBorder: "#5A4F59",
  colorError: "#E58E7B",
  colorSuccess: "#94C08A",
  colorWarning: "#DDB05A",
};

export function themeOf(mode: Mode): ThemeConfig {
  return {
    algorithm:
      mode === "dark" ? [antTheme.darkAlgorithm, antTheme.compactAlgorithm] : antTheme.compactAlgorithm,
    token: {
      ...(mode === "dark" ? DARK : LIGHT),
      fontFamily: FACE,
      borderRadius: 7,
      fontSize: 14,
      motion: false,
    },
    // The plum of the night is too light for white letters.
    components: {
      Form: { itemMarginBottom: 8, verticalLabelPadding: 0 },
      ...(mode === "dark" && { Button: { primaryColor: "#1F1A20" } }),
    },
  };
}

const KEY = "ripe-press-mode";

function initialMode(): Mode {
  const kept = localStorage.getItem(KEY);
  if (kept === "light" || kept === "dark") return kept;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

// Set before anything is drawn: pictures on a canvas read their colours from the page's style.
const show = (mode: Mode) => {
  document.documentElement.dataset.mode = mode;
};

/**
 * The chosen theme, kept for the next visit; without a choice, that of the system, which may change
 * at dusk.
 */
export function useMode(): [Mode, () => void] {
  const [mode, setMode] = useState(() => {
    const first = initialMode();
    show(first);
    return first;
  });
  useEffect(() => {
    const dark = matchMedia("(prefers-color-scheme: dark)");
    const follow = () => {
      const next = initialMode();
      show(next);
      setMode(next);
    };
    dark.addEventListener("change", follow);
    return () => dark.removeEventListener("change", follow);
  }, []);
  const toggle = () => {
    const next = mode === "light" ? "dark" : "light";
    localStorage.setItem(KEY, next);
    show(next);
    setMode(next);
  };
  return [mode, toggle];
}
