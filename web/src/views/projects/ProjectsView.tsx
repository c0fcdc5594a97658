import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Skeleton } from "antd";
import { useState } from "react";
import { api, data } from "../../api/client";
import { Demo } from "./Demo";
import { NewProject } from "./NewProject";
import { ProjectRow } from "./ProjectRow";
import styles from "./ProjectsView.module.css";

/** With fewer projects than this there is room to say how a film comes about. */
const FEW = 3;

const WAY = [
  [
    "Song",
    "The master is listened to: beats, bars, sections, hits. Correct what it heard, tap marks, paste the words.",
  ],
  ["Line-up", "Every take finds its place on the song by its own sound. Settle the doubtful ones by ear and eye."],
  [
    "Coverage",
    "Takes become numbered angles. See what each section has, circle the better pass, pick from the B-roll.",
  ],
  ["Sheet", "One row a phrase. Play, and press 1 to 9: cuts fall on the beat. Lay B-roll over, bar by bar."],
  ["Hand-off", "Checks find holes and slips. Render the film, or give the edit to another program."],
] as const;

/** All projects and how far each is, and making a new one. */
export function ProjectsView() {
  const projects = useQuery({ queryKey: ["projects"], queryFn: () => data(api.GET("/api/projects")), retry: false });
  const [making, setMaking] = useState(false);
  return (
    <div className={styles.projects}>
      <header className="bar">
        <span className="word">zembi</span>
      </header>
      <div className={styles["projects-body"]}>
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
        {projects.data && projects.data.length < FEW && <Way />}
      </div>
      <NewProject open={making} close={() => setMaking(false)} />
    </div>
  );
}

/** How a film comes about, step by step. */
function Way() {
  return (
    <section className={styles.way}>
      {WAY.map(([name, what]) => (
        <div key={name} className={styles.step}>
          <b>{name}</b>
          <span>{what}</span>
        </div>
      ))}
    </section>
  );
}
