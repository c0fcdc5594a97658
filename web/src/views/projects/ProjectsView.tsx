import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Skeleton } from "antd";
import { lazy, Suspense, useState } from "react";
import { api, data } from "../../api/client";
import { Way } from "../../parts/Way";
import { Demo } from "./Demo";
import { ProjectRow } from "./ProjectRow";
import styles from "./ProjectsView.module.css";

// Its fields are many: they come once they are asked for.
const NewProject = lazy(async () => ({ default: (await import("./NewProject")).NewProject }));

/** With fewer projects than this there is room to say how a film comes about. */
const FEW = 3;

/** All projects and how far each is, and making a new one. */
export function ProjectsView() {
  const projects = useQuery({ queryKey: ["projects"], queryFn: () => data(api.GET("/api/v1/projects")), retry: false });
  const [making, setMaking] = useState<boolean | null>(null);
  return (
    <div className={styles.projects}>
      <header className="bar">
        <span className="word">zembi</span>
      </header>
      <main className={styles["projects-body"]}>
        <div className={styles["projects-head"]}>
          <h1>Projects</h1>
          <Button type="primary" onClick={() => setMaking(true)} data-testid="new-project">
            New project
          </Button>
        </div>
        {projects.error && <Alert type="error" showIcon message={projects.error.message} />}
        {projects.isLoading && <Skeleton active />}
        {projects.data?.map((card) => (
          <ProjectRow key={card.id} card={card} />
        ))}
        {projects.data && !projects.data.some((card) => card.id === "lamp-room") && (
          <Demo alone={!projects.data.length} />
        )}
        {projects.data && projects.data.length < FEW && (
          <div className={styles["way-room"]}>
            <Way />
          </div>
        )}
      </main>
      {making !== null && (
        <Suspense fallback={null}>
          <NewProject open={making} close={() => setMaking(false)} />
        </Suspense>
      )}
    </div>
  );
}
