import { Alert, Button } from "antd";
import { Component, type ErrorInfo, type ReactNode } from "react";

interface Props {
  /** What is drawn inside, as it is called on the page. */
  name: string;
  children: ReactNode;
}

/** Keeps a fault in one view from taking the page along: says so, offers a way on and a report to copy. */
export class Guard extends Component<Props, { fault: Error | null; at: string }> {
  override state = { fault: null, at: "" };

  static getDerivedStateFromError(fault: unknown) {
    return { fault: fault instanceof Error ? fault : new Error(String(fault)) };
  }

  override componentDidCatch(_fault: unknown, info: ErrorInfo) {
    this.setState({ at: info.componentStack ?? "" });
  }

  override render() {
    const { fault, at } = this.state as { fault: Error | null; at: string };
    if (!fault) return this.props.children;
    const report = [this.props.name, location.pathname, navigator.userAgent, fault.stack ?? fault.message, at].join(
      "\n",
    );
    return (
      <Alert
        type="error"
        showIcon
        style={{ margin: 24 }}
        data-testid="guard"
        message={`${this.props.name} could not be drawn: ${fault.message}`}
        description="Nothing is lost: the project is kept by the server. The other views still work."
        action={
          <div className="buttons">
            <Button size="small" onClick={() => this.setState({ fault: null, at: "" })}>
              Try again
            </Button>
            <Button size="small" onClick={() => void navigator.clipboard.writeText(report)}>
              Copy a report
            </Button>
          </div>
        }
      />
    );
  }
}
