import { useQueryClient } from "@tanstack/react-query";
import { App, Button, Popconfirm } from "antd";
import { Link } from "react-router";
import { api, data, type ProjectCard } from "../../api/client";
import { classes } from "../../parts/classes";
import { Poster } from "../../parts/Still";
import { WAY } from "../../parts/Way";
import styles from "./ProjectsView.module.css";

const cx = classes(styles);

/** A project in the list: its picture, how far each step is, and the last film. */
export function ProjectRow({ card }: { card: ProjectCard }) {
  if (card.trouble)
    return (
      <article className={cx("project torn")} data-testid={`trouble-${card.id}`}>
        <div className={cx("still")}>cannot be opened</div>
        <div className="grow">
          <h2>{card.name}</h2>
          <p className="bad">{card.trouble}</p>
          <p className="soft">The other projects are not touched by it.</p>
        </div>
        <Delete card={card} />
      </article>
    );
  return (
    <article className={cx("project")}>
      <Link to={`/p/${card.id}/song`} data-testid={`open-${card.id}`} aria-label={`Open ${card.name}`}>
        <div className={cx("project-still")}>
          <Poster project={card.id} file={card.poster} film={[card.width, card.height]} width={224} />
        </div>
      </Link>
      <div className="grow">
        <h2>
          <Link to={`/p/${card.id}/song`}>{card.name}</Link>
        </h2>
        <p className="soft">
          {card.song || "no song yet"} · {card.takes} takes · {card.clips} B-roll · {card.rate} f/s · {card.width}×
          {card.height}
        </p>
        <nav className={cx("steps")} aria-label={`Steps of ${card.name}`}>
          {WAY.map(({ key, name }) => (
            <Link key={key} to={`/p/${card.id}/${key}`} className={cx("step")}>
              <b>{name}</b>
              <span>{card.steps?.[key]}</span>
            </Link>
          ))}
        </nav>
      </div>
      <div className={cx("project-end")}>
        {card.film ? (
          <a href={`/api/v1/projects/${card.id}/handoff/renders/${card.film.job}`} download>
            {card.film.name}
          </a>
        ) : (
          <span className="soft">no film yet</span>
        )}
        <Delete card={card} />
      </div>
    </article>
  );
}

function Delete({ card }: { card: ProjectCard }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const remove = async () => {
    try {
      await data(api.DELETE("/api/v1/projects/{project_id}", { params: { path: { project_id: card.id } } }));
      await client.invalidateQueries({ queryKey: ["projects"] });
    } catch (fault) {
      void message.error((fault as Error).message);
    }
  };
  return (
    <Popconfirm
      title={`Delete “${card.name}”?`}
      description="The project folder is deleted. Footage outside it is not touched."
      okText="Delete project"
      onConfirm={remove}
    >
      <Button size="small" type="text" danger>
        Delete
      </Button>
    </Popconfirm>
  );
}
