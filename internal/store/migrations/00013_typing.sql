-- +goose Up
-- Typing that goes on is one step: whose sign-in it is of.
ALTER TABLE draft_steps ADD COLUMN IF NOT EXISTS typing VARCHAR(64) NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE draft_steps DROP COLUMN IF EXISTS typing;
