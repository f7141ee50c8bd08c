type Props<T> = {
  label: string;
  /** The label is for screen readers only: what stands around says it. */
  quiet?: boolean;
  /** Of the group, told apart from others in the same form. */
  name: string;
  value: T;
  of: readonly { value: T; says: string }[];
  onChange: (value: T) => void;
};

/** One of a few ways, all in sight. */
export function OneOf<T>({ label, quiet = false, name, value, of, onChange }: Props<T>) {
  return (
    <fieldset>
      <legend className={quiet ? "sr-only" : "mb-1 text-ink-2"}>{label}</legend>
      {of.map((one) => (
        <label key={one.says} className="flex items-baseline gap-2 py-0.5">
          <input
            type="radio"
            name={name}
            checked={value === one.value}
            onChange={() => onChange(one.value)}
          />
          {one.says}
        </label>
      ))}
    </fieldset>
  );
}
