-- +goose Up
-- So that the sweep finds at once whether a folder's file holds a content.
ALTER TABLE folder_files ADD KEY IF NOT EXISTS folder_file_doc (doc);

-- +goose Down
ALTER TABLE folder_files DROP KEY IF EXISTS folder_file_doc;
