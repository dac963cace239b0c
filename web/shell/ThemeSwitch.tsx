import { Moon, Sun } from "lucide-react";
import { useState } from "react";
import { currentTheme, setTheme } from "./theme.ts";

export function ThemeSwitch() {
  const [theme, show] = useState(currentTheme);
  const other = theme === "day" ? "evening" : "day";
  const Icon = theme === "day" ? Moon : Sun;
  return (
    <button
      type="button"
      className="button w-9 px-0"
      aria-label={`${other} colours`}
      title={`${other} colours`}
      onClick={() => {
        setTheme(other);
        show(other);
      }}
    >
      <Icon className="size-4" aria-hidden="true" />
    </button>
  );
}
