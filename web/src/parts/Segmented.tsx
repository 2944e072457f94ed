import { ToggleGroup } from "radix-ui";

type Props<T extends string> = {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
};

export function Segmented<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="flex w-fit overflow-hidden rounded-[7px] border border-line bg-card"
    >
      {options.map(([key, name]) => (
        <ToggleGroup.Item
          key={key}
          value={key}
          className="fade whitespace-nowrap px-2.5 py-1 text-[12.5px] leading-[18px] focus-visible:outline-offset-[-2px] data-[state=on]:bg-strong data-[state=on]:font-medium data-[state=on]:text-onstrong"
        >
          {name}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
