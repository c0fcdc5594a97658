import { Button, type ButtonProps } from "antd";

const LIKE_TEXT = {
  height: "auto",
  minHeight: 24,
  padding: 0,
  alignItems: "baseline",
  whiteSpace: "normal",
  textAlign: "inherit",
  textDecoration: "underline",
  textUnderlineOffset: 2,
} as const;

/** Words among others that do something. */
export function TextButton({ style, ...props }: ButtonProps) {
  return <Button type="link" size="small" style={{ ...LIKE_TEXT, ...style }} {...props} />;
}
