"""What an operation of the API answers when it answers no JSON."""

BYTES = {
    "responses": {
        200: {
            "description": "The file's bytes",
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    }
}
