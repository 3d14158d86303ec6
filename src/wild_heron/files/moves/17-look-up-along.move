{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Look up along",
  "line": "From low before the subject, up along it.",
  "tags": [
   "lively",
   "look"
  ],
  "frames": 96.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.y",
      "value": -0.4
     },
     {
      "name": "position.z",
      "value": 3.0
     },
     {
      "name": "rotation.x",
      "value": -14.0,
      "keys": [
       {
        "frame": 0.0,
        "value": -14.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 96.0,
        "value": 7.6,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
