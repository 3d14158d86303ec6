{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Crane down",
  "line": "Comes down from above and arrives level with the subject.",
  "tags": [
   "calm",
   "crane"
  ],
  "frames": 108.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.y",
      "value": 1.7,
      "keys": [
       {
        "frame": 0.0,
        "value": 1.7,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 108.0,
        "value": 0.0,
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
      "value": 3.8,
      "keys": [
       {
        "frame": 0.0,
        "value": 3.8,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 108.0,
        "value": 3.0,
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
  "focuses": true
 }
}
