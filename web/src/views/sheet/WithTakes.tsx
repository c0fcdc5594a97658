import { Checkbox } from "antd";
import { useProject } from "../../api/project";
import { useChoice } from "./choice";

/** Whether filling shows angles too; nothing where no take is lined up yet. */
export function WithTakes() {
  const { state } = useProject();
  const mixed = useChoice((c) => c.mixed);
  if (!state.angles.length) return null;
  return (
    <Checkbox
      checked={mixed}
      onChange={(e) => useChoice.setState({ mixed: e.target.checked })}
      data-testid="fill-mixed"
    >
      <span title="Takes and clips, in the share of B-roll that the plan says">takes too</span>
    </Checkbox>
  );
}
