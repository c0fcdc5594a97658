import { forwardRef, useImperativeHandle, useRef, useState } from "react";
import { type TableFile, useTables } from "../api/tables";

interface Props {
  /** The table that was chosen, kept with the project. */
  chosen: (table: TableFile) => unknown;
  testId: string;
}

/** How to ask for a file. */
export interface CubeAsker {
  ask: () => void;
}

/** A `.cube` from the editor's disk, kept with the project; one that is damaged is refused in words, under it. */
export const CubeFile = forwardRef<CubeAsker, Props>(function CubeFile({ chosen, testId }, asker) {
  const { bring } = useTables();
  const chooser = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState("");
  useImperativeHandle(asker, () => ({ ask: () => chooser.current?.click() }), []);
  const take = async (file: File) => {
    setTrouble("");
    try {
      await chosen(await bring({ kind: "cube", name: file.name, text: await file.text() }));
    } catch (fault) {
      setTrouble(fault instanceof Error ? fault.message : String(fault));
    }
  };
  return (
    <>
      <input
        ref={chooser}
        type="file"
        accept=".cube"
        hidden
        aria-label="A table of colours, .cube"
        data-testid={testId}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void take(file);
          event.target.value = "";
        }}
      />
      {trouble && (
        <p className="bad" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
});
