import { Segmented } from "antd";
import { classes } from "../../parts/classes";
import { type Layout, LAYOUTS, useChoice } from "./choice";
import styles from "./SheetView.module.css";

const cx = classes(styles);

/** The layouts of the Sheet. */
export function LayoutChoice() {
  const layout = useChoice((c) => c.layout);
  return (
    <Segmented
      className={cx("layouts")}
      size="small"
      value={layout}
      onChange={(v) => useChoice.setState({ layout: v as Layout })}
      options={[...LAYOUTS]}
      data-testid="layout"
    />
  );
}
