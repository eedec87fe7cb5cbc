-- A job lies in the list, in the archive, or among the deleted, from where it is brought back or forgotten for good.
ALTER TABLE job ADD COLUMN shelf TEXT NOT NULL DEFAULT 'list' CHECK (shelf IN ('list', 'archive', 'deleted'));
ALTER TABLE job ADD COLUMN shelved REAL;
