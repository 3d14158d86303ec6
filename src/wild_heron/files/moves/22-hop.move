{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Hop",
  "line": "From one side to the other, over the top.",
  "tags": [
   "lively"
  ],
  "frames": 60.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.x",
      "value": -1.2,
      "keys": [
       {
        "frame": 0.0,
        "value": -1.2,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 60.0,
        "value": 1.2,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     },
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
         "direction": "out"
        }
       },
       {
        "frame": 30.0,
        "value": 0.9,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in"
        }
       },
       {
        "frame": 60.0,
        "value": 0.0,
        "span": {
         "type": "linear"
        }
       }
      ]
     },
     {
      "name": "position.z",
      "value": 3.0
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
  "rest": "middle",
  "focuses": true,
  "smooth": false
 }
}
