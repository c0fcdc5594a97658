import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Progress } from "antd";
import { useEffect } from "react";
import { api, data } from "../../api/client";
import styles from "./ProjectsView.module.css";

/** An offer to make the demo project, and how far it is. */
export function Demo({ alone }: { alone: boolean }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const making = useQuery({
    queryKey: ["demo"],
    queryFn: () => data(api.GET("/api/v1/demo")),
    refetchInterval: (query) => (query.state.data?.state === "making" ? 700 : false),
  });
  const now = making.data;
  useEffect(() => {
    if (now?.state === "done") void client.invalidateQueries({ queryKey: ["projects"] });
    if (now?.state === "failed") void message.error(now.words, 8);
  }, [now, client, message]);
  const start = async () => client.setQueryData(["demo"], await data(api.POST("/api/v1/demo")));
  return (
    <section className={styles.demo} data-testid="demo">
      <div className="grow">
        <h2>{alone ? "Look around first" : "A project to look around in"}</h2>
        <p className="soft">
          “Lamp Room” is a made-up song of two minutes with nine takes and eight clips of B-roll, lined up and cut.
          Making it takes about two minutes; your own projects can be worked on meanwhile.
        </p>
      </div>
      {now?.state === "making" ? (
        <div className={styles["demo-progress"]}>
          <Progress aria-label="Making the demo" percent={Math.round(100 * now.share)} size="small" />
          <span className="soft">{now.words}</span>
        </div>
      ) : (
        <Button onClick={start} data-testid="make-demo">
          Make the demo project
        </Button>
      )}
    </section>
  );
}
