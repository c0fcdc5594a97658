import { InputNumber, type InputNumberProps } from "antd";
import { useEffect, useState } from "react";

type Props = Omit<InputNumberProps<number>, "onChange" | "value" | "defaultValue"> & {
  value: number;
  /** Told once for each change: when it is typed and left, or stepped. */
  change: (value: number) => void;
};

/** A number that is written once it is typed, not at every letter. */
export function NumberField({ value, change, ...rest }: Props) {
  const [typed, setTyped] = useState<number | null>(value);
  useEffect(() => setTyped(value), [value]);
  const commit = () => {
    if (typed === null) setTyped(value);
    else if (typed !== value) change(typed);
  };
  return (
    <InputNumber<number>
      size="small"
      {...rest}
      value={typed}
      onChange={setTyped}
      onStep={(next) => change(Number(next))}
      onBlur={commit}
      onPressEnter={commit}
    />
  );
}
