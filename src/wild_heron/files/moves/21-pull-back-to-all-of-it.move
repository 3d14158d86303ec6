{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Pull back to all of it",
  "line": "From the subject back to the whole set.",
  "tags": [
   "bold",
   "push"
  ],
  "frames": 144.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.y",
      "value": 0.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 144.0,
        "value": 0.5,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     },
     {
      "name": "position.z",
      "value": 2.4,
      "keys": [
       {
        "frame": 0.0,
        "value": 2.4,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 144.0,
        "value": 7.5,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ],
    "binds": [
     {
      "type": "aim",
      "targets": [
       "base"
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "rest": "start",
  "focuses": true
 }
}
