package api

// UploadID is the header by which a request names an upload that is its body.
const UploadID = "Upload-Id"
