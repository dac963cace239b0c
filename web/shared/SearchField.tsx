import { useSlashSearch } from "./use-slash-search.ts";

/** The search field of a screen; `/` goes there. `className`: its width and where it stands. */
export function SearchField({
  label,
  placeholder,
  value,
  onChange,
  className,
}: {
  label: string;
  placeholder: string;
  value: string;
  onChange: (words: string) => void;
  className: string;
}) {
  const search = useSlashSearch();
  return (
    <label
      className={`flex h-8 items-center gap-2 rounded-field border border-line bg-base-100 px-2.5 focus-within:outline-2 focus-within:outline-ink ${className}`}
    >
      <span className="sr-only">{label}</span>
      <input
        ref={search}
        className="min-w-0 flex-1 bg-transparent text-sm outline-none placeholder:text-second"
        placeholder={placeholder}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      <kbd className="key">/</kbd>
    </label>
  );
}
