//! What was logged when the remaining hours of a task were typed: with both, logging can be taken back.

// What was typed went down with the log until now, so what stands is what remains beside all that is logged, also inside the task.
pub const SCHEMA: &str = r"
ALTER TABLE task ADD COLUMN logged_then bigint NOT NULL DEFAULT 0 CHECK (logged_then >= 0);
WITH RECURSIVE inside (top, id) AS (
    SELECT id, id FROM task WHERE remaining IS NOT NULL
    UNION SELECT inside.top, task.id FROM task JOIN inside ON task.parent_id = inside.id
), logged AS (
    SELECT inside.top, sum(time_entry.minutes) AS minutes
    FROM inside JOIN time_entry ON time_entry.task_id = inside.id GROUP BY inside.top
)
UPDATE task SET logged_then = logged.minutes FROM logged WHERE task.id = logged.top;
";
