-- +goose Up
-- Extra time of one student, at every exercise that is issued to the class: so many hours after the due date of the others.
ALTER TABLE memberships ADD COLUMN IF NOT EXISTS extra_hours INT NOT NULL DEFAULT 0;
-- Whether a due date of the own comes from that, and not from an extension that somebody gave.
ALTER TABLE issue_students ADD COLUMN IF NOT EXISTS by_extra TINYINT(1) NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE issue_students DROP COLUMN IF EXISTS by_extra;
ALTER TABLE memberships DROP COLUMN IF EXISTS extra_hours;
