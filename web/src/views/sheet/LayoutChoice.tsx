import { Segmented } from "antd";
import { type Layout, LAYOUTS, useChoice } from "./choice";

/** The layouts of the Sheet. */
export function LayoutChoice() {
  const layout = useChoice((c) => c.layout);
  return (
    <Segmented
      size="small"
      value={layout}
      onChange={(v) => useChoice.setState({ layout: v as Layout })}
      options={[...LAYOUTS]}
      data-testid="layout"
    />
  );
}
